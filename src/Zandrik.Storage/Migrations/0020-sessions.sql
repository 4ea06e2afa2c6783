-- A sign-in on one device, until it is ended: a cookie that was copied is worth nothing after that.
create table session (
    id          uuid primary key,
    shop_id     int  not null references shop,
    person_id   int  not null,
    device      text not null check (length(device) between 1 and 200),
    made_at     timestamptz not null,
    seen_at     timestamptz not null,
    ended_at    timestamptz,
    foreign key (shop_id, person_id) references person (shop_id, id)
);
create index session_person on session (person_id) where ended_at is null;
alter table session enable row level security;
alter table session force row level security;
create policy own_shop on session using (shop_id = current_shop()) with check (shop_id = current_shop());
grant select, insert, update on session to $app$;

-- Tries to sign in, counted before a password is looked at, so that many at once are no more than a few. What is counted
-- (a name from a device that is not known, a known device, an address) is kept as a hash, whether it exists or not.
create table sign_in_count (
    key       bytea primary key,
    tries     int not null,
    first_at  timestamptz not null,
    free_at   timestamptz not null
);
-- Counts a try for each key, or says until when there is none: the wait doubles with each try beyond the free ones, from
-- half a minute to a quarter of an hour. An hour without a wait, and it is forgotten. Keys come in one order, so that two
-- tries never wait for each other both ways.
create function count_sign_in(keys bytea[], free int[], at timestamptz) returns timestamptz
    language plpgsql security definer set search_path = public as $$
declare
    blocked timestamptz;
    k record;
    r sign_in_count;
begin
    for k in select u.key, u.free from unnest(keys, free) as u (key, free) order by u.key loop
        insert into sign_in_count values (k.key, 0, at, at) on conflict (key) do nothing;
        select * into r from sign_in_count c where c.key = k.key for update;
        if greatest(r.first_at, r.free_at) < at - interval '1 hour' then
            update sign_in_count c set tries = 0, first_at = at, free_at = at where c.key = k.key;
        elsif r.free_at > at then
            blocked := greatest(blocked, r.free_at);
        end if;
    end loop;
    if blocked is not null then
        return blocked;
    end if;
    update sign_in_count c set tries = c.tries + 1,
        free_at = case when c.tries + 1 < u.free then at else at + least(interval '15 minutes', interval '30 seconds' * power(2, least(c.tries + 1 - u.free, 10))) end
    from unnest(keys, free) as u (key, free) where c.key = u.key;
    -- Names that were tried once and never again are not kept for ever.
    if random() < 0.01 then
        delete from sign_in_count c where greatest(c.first_at, c.free_at) < at - interval '1 day' and not c.key = any(keys);
    end if;
    return null;
end $$;
-- After a right password: its own count is over, and an address has one try back.
create function forget_sign_in(own bytea, address bytea, at timestamptz) returns void
    language sql security definer set search_path = public as $$
    delete from sign_in_count where key = own;
    update sign_in_count set tries = greatest(0, tries - 1), free_at = least(free_at, at) where key = address;
$$;
revoke all on function count_sign_in(bytea[], int[], timestamptz), forget_sign_in(bytea, bytea, timestamptz) from public;
grant execute on function count_sign_in(bytea[], int[], timestamptz), forget_sign_in(bytea, bytea, timestamptz) to $app$;
alter table person drop column failures, drop column locked_until;
