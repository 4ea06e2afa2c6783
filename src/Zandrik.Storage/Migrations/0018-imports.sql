-- What comes in from a table comes in as one thing, and can be undone as one. Readings are never removed, so a job that
-- is undone is withdrawn: the policy hides it from everybody, and what belongs to it with it. The sample job of a new
-- shop is an import too, and is taken off the same way.
create table import (
    id          int generated always as identity primary key,
    shop_id     int  not null references shop,
    purpose     text not null default current_purpose() check (purpose in ('work', 'practice')),
    kind        text not null check (kind in ('vehicles', 'sheets', 'jobs', 'sample')),
    entry       uuid not null,
    made_at     timestamptz not null,
    made_by     int  not null,
    undone_at   timestamptz,
    undone_by   int,
    unique (shop_id, purpose, id),
    unique (shop_id, entry),
    foreign key (shop_id, made_by) references person (shop_id, id),
    foreign key (shop_id, undone_by) references person (shop_id, id)
);
-- One thing it brought or changed. "before" and "after" are what a vehicle said and says, the versions those of a sheet,
-- "mark" what a job stood at when it was in: whatever was entered since is worth more than the undoing.
create table import_row (
    id             bigint generated always as identity primary key,
    shop_id        int  not null references shop,
    purpose        text not null default current_purpose() check (purpose in ('work', 'practice')),
    import_id      int  not null,
    row            int  not null,
    change         text not null check (change in ('new', 'changed')),
    job_id         bigint,
    vehicle_id     int,
    engine_id      int,
    sheet_id       int,
    before         jsonb,
    after          jsonb,
    before_version int,
    after_version  int,
    mark           bigint,
    foreign key (shop_id, purpose, import_id) references import (shop_id, purpose, id),
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, purpose, vehicle_id) references vehicle (shop_id, purpose, id),
    foreign key (shop_id, purpose, engine_id) references engine (shop_id, purpose, id) on delete set null (engine_id),
    foreign key (shop_id, sheet_id) references engine_sheet (shop_id, id)
);
create index import_row_of on import_row (import_id);
do $$
declare t text;
begin
    foreach t in array array['import', 'import_row'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose()) with check (shop_id = current_shop() and purpose = current_purpose())', t);
    end loop;
    foreach t in array array['job', 'vehicle', 'engine'] loop
        execute format('alter table %I add column withdrawn_at timestamptz', t);
        execute format('alter policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose() and withdrawn_at is null)', t);
    end loop;
end $$;
-- A sample looks like work and is none: it is said on its pages, and nothing found in it is counted.
alter table job add column sample boolean not null default false;
-- What was withdrawn holds its name no longer.
drop index vehicle_label;
create unique index vehicle_label on vehicle (shop_id, purpose, lower(label)) where withdrawn_at is null;
drop index engine_serial;
create unique index engine_serial on engine (shop_id, purpose, lower(serial)) where serial is not null and withdrawn_at is null;

-- Hides what an import brought. It runs with the owner's eyes, because a row that its own policy hides cannot be written
-- past that policy; so it asks for the shop itself, and touches nothing that this import of the shop did not bring.
create function withdraw_imported(wanted int, jobs bigint[], vehicles int[], at timestamptz) returns void
    language plpgsql security definer set search_path = public as $$
declare
    nowhere int;
begin
    update job set withdrawn_at = at where id = any(jobs) and shop_id = current_shop() and withdrawn_at is null
        and id in (select r.job_id from import_row r where r.import_id = wanted and r.shop_id = current_shop());
    -- An engine goes with its last job, and with the vehicle it was brought in.
    update engine e set withdrawn_at = at where e.shop_id = current_shop() and e.withdrawn_at is null
        and e.id in (select r.engine_id from import_row r where r.import_id = wanted and r.shop_id = current_shop() and (r.job_id = any(jobs) or r.vehicle_id = any(vehicles)))
        and not exists (select 1 from job j where j.engine_id = e.id and j.withdrawn_at is null);
    -- An engine that stays must not be held by a job that nobody sees: it may be forgotten later.
    if exists (select 1 from job j join engine e on e.id = j.engine_id where j.id = any(jobs) and j.shop_id = current_shop() and j.withdrawn_at is not null and e.withdrawn_at is null) then
        insert into engine (shop_id, withdrawn_at) values (current_shop(), at) returning id into nowhere;
        update job j set engine_id = nowhere from engine e where e.id = j.engine_id and j.id = any(jobs) and j.shop_id = current_shop() and j.withdrawn_at is not null and e.withdrawn_at is null;
    end if;
    delete from engine_in i using engine e where e.id = i.engine_id and e.shop_id = current_shop() and e.withdrawn_at is not null;
    update vehicle v set withdrawn_at = at where v.id = any(vehicles) and v.shop_id = current_shop() and v.withdrawn_at is null
        and v.id in (select r.vehicle_id from import_row r where r.import_id = wanted and r.shop_id = current_shop() and r.change = 'new')
        and not exists (select 1 from job j where j.vehicle_id = v.id and j.withdrawn_at is null)
        and not exists (select 1 from engine_in i where i.vehicle_id = v.id);
end $$;

-- Searches pass no policy: they ask themselves. The same as before, but for what was withdrawn.
create or replace function search_jobs(wanted text, most int) returns table (number int)
    language plpgsql stable security definer set search_path = public set plan_cache_mode = force_custom_plan as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge timestamptz;
begin
    return query select j.number from
        (select i.number, i.search, i.opened_at from job i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null order by i.opened_at desc, i.number desc limit 1500) j
        where j.search like pattern or j.number::text = wanted order by j.opened_at desc, j.number desc limit most;
    get diagnostics found = row_count;
    if found < most and wanted ~ '^[0-9]{1,9}$' then
        return query select i.number from job i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null and i.number = wanted::int
            and i.number not in (select k.number from job k where k.shop_id = current_shop() and k.purpose = current_purpose() and k.withdrawn_at is null order by k.opened_at desc, k.number desc limit 1500);
    end if;
    if found < most and length(wanted) >= 3 then
        select min(j.opened_at) into edge from
            (select i.opened_at from job i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null order by i.opened_at desc, i.number desc limit 1500) j;
        return query execute 'select i.number from job i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null and i.search like $1 and i.opened_at < $2
            order by i.opened_at desc, i.number desc limit $3' using pattern, edge, most - found;
    end if;
end $$;

create or replace function search_vehicles(wanted text, most int) returns table (id int)
    language plpgsql stable security definer set search_path = public set plan_cache_mode = force_custom_plan as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge int;
begin
    return query select v.id from
        (select i.id, i.search from vehicle i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null order by i.id desc limit 1500) v
        where v.search like pattern order by v.id desc limit most;
    get diagnostics found = row_count;
    if found < most and length(wanted) >= 3 then
        select min(v.id) into edge from (select i.id from vehicle i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null order by i.id desc limit 1500) v;
        return query execute 'select i.id from vehicle i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null and i.search like $1 and i.id < $2 order by i.id desc limit $3'
            using pattern, edge, most - found;
    end if;
end $$;

create or replace function search_engines(wanted text, most int) returns table (id int)
    language plpgsql stable security definer set search_path = public set plan_cache_mode = force_custom_plan as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge int;
begin
    return query select e.id from
        (select i.id, i.search from engine i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null order by i.id desc limit 1500) e
        where e.search like pattern order by e.id desc limit most;
    get diagnostics found = row_count;
    if found < most and length(wanted) >= 3 then
        select min(e.id) into edge from (select i.id from engine i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null order by i.id desc limit 1500) e;
        return query execute 'select i.id from engine i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.withdrawn_at is null and i.search like $1 and i.id < $2 order by i.id desc limit $3'
            using pattern, edge, most - found;
    end if;
end $$;

grant select, insert, update on import to $app$;
grant select, insert on import_row to $app$;
grant usage on all sequences in schema public to $app$;
grant execute on function withdraw_imported(int, bigint[], int[], timestamptz) to $app$;
