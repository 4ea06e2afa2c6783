-- People sign in, have a role, and can be locked out or leave. Settings are the shop's own document; what
-- the database itself has to know stays in columns.

alter table shop add column settings jsonb not null default '{}';
alter table shop add column demo boolean not null default false;

alter table person add column login text;
alter table person add column password_hash text;
alter table person add column role text not null default 'technician' check (role in ('technician', 'foreman', 'viewer'));
-- Stands in every sign-in cookie: a new stamp ends all of them at once.
alter table person add column stamp uuid not null default gen_random_uuid();
alter table person add column failures int not null default 0;
alter table person add column locked_until timestamptz;
alter table person add column left_at timestamptz;
-- A sign-in name finds its shop, so it is one of a kind in the whole database.
create unique index person_login on person (lower(login)) where login is not null;

-- One-time links: to set a password for the first time, or a new one. Kept as SHA-256, like tokens.
create table door_link (
    id          int generated always as identity primary key,
    shop_id     int   not null references shop,
    person_id   int   not null,
    hash        bytea not null unique,
    made_at     timestamptz not null default now(),
    expires_at  timestamptz not null,
    used_at     timestamptz,
    foreign key (shop_id, person_id) references person (shop_id, id)
);
alter table door_link enable row level security;
alter table door_link force row level security;
create policy own_shop on door_link using (shop_id = current_shop()) with check (shop_id = current_shop());

-- The questions that come before a shop is known.
create or replace function shop_of_token(token_hash bytea) returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as
    $$ select t.shop_id, t.person_id from api_token t join person p on p.id = t.person_id
       where t.hash = token_hash and t.revoked_at is null and p.left_at is null $$;
create function person_of_login(wanted text) returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as
    $$ select p.shop_id, p.id from person p where lower(p.login) = lower(wanted) and p.left_at is null and p.password_hash is not null $$;
create function person_of_link(link_hash bytea, at timestamptz) returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as
    $$ select l.shop_id, l.person_id from door_link l join person p on p.id = l.person_id
       where l.hash = link_hash and l.used_at is null and l.expires_at > at and p.left_at is null $$;
create function login_is_free(wanted text, except_person int) returns boolean
    language sql stable security definer set search_path = public as
    $$ select not exists (select 1 from person p where lower(p.login) = lower(wanted) and p.id <> except_person) $$;
-- The made-up accounts of a demo, for its sign-in page.
create function demo_people() returns table (name text, login text, role text)
    language sql stable security definer set search_path = public as
    $$ select p.name, p.login, p.role from person p join shop s on s.id = p.shop_id
       where s.demo and p.login is not null and p.left_at is null order by p.id $$;
create function anybody_can_sign_in() returns boolean
    language sql stable security definer set search_path = public as
    $$ select exists (select 1 from person p where p.password_hash is not null and p.left_at is null) $$;

grant update (next_job, name, time_zone, unit, settings) on shop to $app$;
grant insert, update on person, api_token to $app$;
grant select, insert, update on door_link to $app$;
grant usage on all sequences in schema public to $app$;
grant execute on function person_of_login(text), person_of_link(bytea, timestamptz), login_is_free(text, int),
    demo_people(), anybody_can_sign_in() to $app$;
