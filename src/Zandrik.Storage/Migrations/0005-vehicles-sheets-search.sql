-- Vehicles, known by what the shop calls them; engine sheets, of which every change is a new version; and
-- finding things again.
create extension if not exists pg_trgm;

create table vehicle (
    id          int generated always as identity primary key,
    shop_id     int  not null references shop,
    label       text not null,
    -- Registration, hull or chassis number, as the shop writes it.
    identity    text,
    notes       text,
    search      text generated always as (lower(label || ' ' || coalesce(identity, ''))) stored,
    made_at     timestamptz not null default now(),
    unique (shop_id, id)
);
create unique index vehicle_label on vehicle (shop_id, lower(label));
create index vehicle_search on vehicle using gin (search gin_trgm_ops);

create table engine_sheet (
    id          int generated always as identity primary key,
    shop_id     int  not null references shop,
    name        text not null,
    search      text generated always as (lower(name)) stored,
    retired_at  timestamptz,
    unique (shop_id, id)
);
create unique index engine_sheet_name on engine_sheet (shop_id, lower(name));
create index engine_sheet_search on engine_sheet using gin (search gin_trgm_ops);

-- A version is never changed: a job that was opened with it is judged by it for good.
create table engine_sheet_version (
    id          int generated always as identity primary key,
    shop_id     int   not null references shop,
    sheet_id    int   not null,
    version     int   not null,
    body        jsonb not null,
    made_at     timestamptz not null,
    made_by     int   not null,
    unique (sheet_id, version),
    unique (shop_id, id),
    foreign key (shop_id, sheet_id) references engine_sheet (shop_id, id),
    foreign key (shop_id, made_by) references person (shop_id, id)
);
create trigger sheet_version_is_append_only before update or delete or truncate on engine_sheet_version
    for each statement execute function refuse_change();

alter table job add column vehicle_id int;
alter table job add column sheet_version_id int;
alter table job add column search text generated always as (lower(
    coalesce(record -> 'vehicle' ->> 'label', '') || ' ' || coalesce(record -> 'engine' ->> 'name', '') || ' ' || coalesce(record ->> 'complaint', ''))) stored;
insert into vehicle (shop_id, label)
    select shop_id, min(vehicle_label) from job where vehicle_label is not null group by shop_id, lower(vehicle_label);
update job j set vehicle_id = v.id from vehicle v where v.shop_id = j.shop_id and lower(v.label) = lower(j.vehicle_label);
alter table job add foreign key (shop_id, vehicle_id) references vehicle (shop_id, id);
alter table job add foreign key (shop_id, sheet_version_id) references engine_sheet_version (shop_id, id);
create index job_search on job using gin (search gin_trgm_ops);
create index job_of_vehicle on job (vehicle_id, opened_at desc, number desc);
create index job_open_by on job (shop_id, opened_by, opened_at desc, number desc) where closed_at is null;
create index job_by on job (shop_id, opened_by, opened_at desc, number desc);

do $$
declare t text;
begin
    foreach t in array array['vehicle', 'engine_sheet', 'engine_sheet_version'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
    end loop;
end $$;

-- Searching runs with the owner's eyes, for the shop of the connection only: under row-level security an
-- index cannot answer a pattern, because the pattern is not to see rows of other shops. Newest first: the
-- latest jobs are looked through, and only what is not found there is asked of the index, so that neither a
-- word on every job nor one on a single job is slow.
create function search_pattern(wanted text) returns text language sql immutable as
    $$ select '%' || replace(replace(replace(lower(wanted), '\', '\\'), '%', '\%'), '_', '\_') || '%' $$;

create function search_jobs(wanted text, most int) returns table (number int)
    language plpgsql stable security definer set search_path = public as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge timestamptz;
begin
    return query select j.number from
        (select i.number, i.search, i.opened_at from job i where i.shop_id = current_shop() order by i.opened_at desc, i.number desc limit 1500) j
        where j.search like pattern or j.number::text = wanted order by j.opened_at desc, j.number desc limit most;
    get diagnostics found = row_count;
    if found < most and wanted ~ '^[0-9]{1,9}$' then
        return query select i.number from job i where i.shop_id = current_shop() and i.number = wanted::int
            and i.number not in (select k.number from job k where k.shop_id = current_shop() order by k.opened_at desc, k.number desc limit 1500);
    end if;
    if found < most and length(wanted) >= 3 then
        select min(j.opened_at) into edge from
            (select i.opened_at from job i where i.shop_id = current_shop() order by i.opened_at desc, i.number desc limit 1500) j;
        return query execute 'select i.number from job i where i.shop_id = current_shop() and i.search like $1 and i.opened_at < $2
            order by i.opened_at desc, i.number desc limit $3' using pattern, edge, most - found;
    end if;
end $$;

create function search_vehicles(wanted text, most int) returns table (id int)
    language plpgsql stable security definer set search_path = public as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge int;
begin
    return query select v.id from
        (select i.id, i.search from vehicle i where i.shop_id = current_shop() order by i.id desc limit 1500) v
        where v.search like pattern order by v.id desc limit most;
    get diagnostics found = row_count;
    if found < most and length(wanted) >= 3 then
        select min(v.id) into edge from (select i.id from vehicle i where i.shop_id = current_shop() order by i.id desc limit 1500) v;
        return query execute 'select i.id from vehicle i where i.shop_id = current_shop() and i.search like $1 and i.id < $2 order by i.id desc limit $3'
            using pattern, edge, most - found;
    end if;
end $$;
create index vehicle_newest on vehicle (shop_id, id desc);

create function search_sheets(wanted text, most int) returns table (id int)
    language sql stable security definer set search_path = public as $$
    select s.id from engine_sheet s where s.shop_id = current_shop() and s.retired_at is null
        and s.search like search_pattern(wanted) order by s.name limit most $$;

grant select, insert, update on vehicle, engine_sheet to $app$;
grant select, insert on engine_sheet_version to $app$;
grant usage on all sequences in schema public to $app$;
grant execute on function search_pattern(text), search_jobs(text, int), search_vehicles(text, int), search_sheets(text, int) to $app$;
