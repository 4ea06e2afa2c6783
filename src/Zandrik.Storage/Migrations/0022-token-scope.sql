-- What a token may, and until when. Those that are there already may what they might, without an end.
alter table api_token add column may_write boolean not null default true, add column ends_at timestamptz;
drop function shop_of_token(bytea);
create function shop_of_token(token_hash bytea, at timestamptz) returns table (shop_id int, person_id int, may_write boolean)
    language sql stable security definer set search_path = public as
    $$ select t.shop_id, t.person_id, t.may_write from api_token t join person p on p.id = t.person_id
       where t.hash = token_hash and t.revoked_at is null and (t.ends_at is null or t.ends_at > at) and p.left_at is null $$;
revoke all on function shop_of_token(bytea, timestamptz) from public;
grant execute on function shop_of_token(bytea, timestamptz) to $app$;
