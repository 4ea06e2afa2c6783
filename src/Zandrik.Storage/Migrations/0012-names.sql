-- Names that say what they hold.
alter table reading rename column beside to conflicting_reading;
alter table door_link rename to one_time_link;
create or replace function person_of_link(link_hash bytea, at timestamptz) returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as
    $$ select l.shop_id, l.person_id from one_time_link l join person p on p.id = l.person_id
       where l.hash = link_hash and l.used_at is null and l.expires_at > at and p.left_at is null $$;
