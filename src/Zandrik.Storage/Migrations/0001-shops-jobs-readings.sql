-- Every row knows its shop. Row-level security lets a connection see only the shop named in the setting
-- zandrik.shop; a connection that names none sees nothing. $app$ is the plain role of the application.

create table shop (
    id          int generated always as identity primary key,
    name        text not null,
    time_zone   text not null,
    unit        text not null,
    next_job    int  not null default 1
);

create table person (
    id          int generated always as identity primary key,
    shop_id     int  not null references shop,
    name        text not null,
    unique (shop_id, name),
    unique (shop_id, id)
);

-- Tokens are stored as SHA-256 of a random text, so a stolen table opens nothing.
create table api_token (
    id          int generated always as identity primary key,
    shop_id     int   not null references shop,
    person_id   int   not null,
    label       text  not null,
    hash        bytea not null unique,
    created_at  timestamptz not null default now(),
    revoked_at  timestamptz,
    foreign key (shop_id, person_id) references person (shop_id, id)
);

-- A job keeps its open record without the tests, whole and with unknown fields; what lists need is
-- projected beside it.
create table job (
    id            bigint generated always as identity primary key,
    shop_id       int    not null references shop,
    number        int    not null,
    record        jsonb  not null,
    unit          text   not null,
    vehicle_label text   generated always as (record -> 'vehicle' ->> 'label') stored,
    opened_at     timestamptz not null,
    opened_by     int    not null,
    closed_at     timestamptz,
    unique (shop_id, number),
    unique (shop_id, id),
    foreign key (shop_id, opened_by) references person (shop_id, id)
);
create index job_open on job (shop_id, opened_at desc, number desc) where closed_at is null;
create index job_all on job (shop_id, opened_at desc, number desc);

create table test (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    position    int    not null,
    kind        text   not null,
    body        jsonb  not null,
    made_at     timestamptz not null default now(),
    made_by     int    not null,
    unique (job_id, position),
    unique (shop_id, id),
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, made_by) references person (shop_id, id)
);

-- Readings are only ever added. A row that takes another's place names it in "supersedes"; a row without
-- a body takes a reading back. Each slot of a test (a cylinder, or a place in a list) is one chain: a
-- second first row, or a second successor, is refused.
create table reading (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    test_id     bigint not null,
    slot        int    not null,
    position    int    not null,
    supersedes  bigint unique references reading,
    undoes      bigint unique references reading,
    entry       uuid,
    cylinder    int    generated always as ((body ->> 'cylinder')::int) stored,
    value       double precision generated always as ((body ->> 'value')::double precision) stored,
    body        jsonb,
    taken_at    timestamptz not null default now(),
    by_person   int    not null,
    unique (shop_id, entry),
    foreign key (shop_id, test_id) references test (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create unique index reading_first on reading (test_id, slot) where supersedes is null;
create index reading_of_test on reading (test_id);

create function refuse_change() returns trigger language plpgsql as $$
begin
    raise exception 'Readings are added and superseded, never changed or removed.';
end $$;
create trigger reading_is_append_only before update or delete or truncate on reading
    for each statement execute function refuse_change();

-- What a POST with an Idempotency-Key made, so that the same request sent again makes nothing new.
create table idempotency (
    shop_id       int   not null references shop,
    key           text  not null,
    request_hash  bytea not null,
    job_number    int   not null,
    created_at    timestamptz not null default now(),
    primary key (shop_id, key)
);

-- Keys of cookies and form tokens, shared by every copy of the server and surviving a restart.
create table data_protection_key (
    id            int generated always as identity primary key,
    friendly_name text,
    xml           text not null,
    created_at    timestamptz not null default now()
);

create function current_shop() returns int language sql stable as
    $$ select nullif(current_setting('zandrik.shop', true), '')::int $$;
do $$
declare t text;
begin
    foreach t in array array['person', 'api_token', 'job', 'test', 'reading', 'idempotency'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
    end loop;
end $$;
alter table shop enable row level security;
alter table shop force row level security;
create policy own_shop on shop using (id = current_shop());

-- The two questions that come before a shop is known. They run with the owner's eyes and answer nothing else.
create function shop_of_token(token_hash bytea) returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as
    $$ select t.shop_id, t.person_id from api_token t where t.hash = token_hash and t.revoked_at is null $$;
create function first_person() returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as
    $$ select p.shop_id, p.id from person p order by p.shop_id, p.id limit 1 $$;

grant usage on schema public to $app$;
grant select, update (next_job) on shop to $app$;
grant select on person, api_token to $app$;
grant select, insert, update on job, test to $app$;
grant select, insert on reading, idempotency, data_protection_key to $app$;
grant usage on all sequences in schema public to $app$;
grant execute on function shop_of_token(bytea), first_person() to $app$;
