-- An engine is a thing of its own: it is taken out of one vehicle and put into another, and its readings go with it.
-- What it is called is its serial number or the shop's tag; without one it is known by the vehicle it sits in.
create extension if not exists btree_gist;
create table engine (
    id          int generated always as identity primary key,
    shop_id     int  not null references shop,
    purpose     text not null default current_purpose() check (purpose in ('work', 'practice')),
    serial      text,
    sheet_id    int,
    notes       text,
    search      text generated always as (lower(coalesce(serial, ''))) stored,
    made_at     timestamptz not null default now(),
    unique (shop_id, id),
    unique (shop_id, purpose, id),
    foreign key (shop_id, sheet_id) references engine_sheet (shop_id, id)
);
create unique index engine_serial on engine (shop_id, purpose, lower(serial)) where serial is not null;
create index engine_search on engine using gin (search gin_trgm_ops);

-- Which vehicle an engine sat in, and from when to when. Absent times reach as far as anybody knows. A vehicle may have
-- two engines at once, as a boat has; an engine is in one place.
create table engine_in (
    id          int generated always as identity primary key,
    shop_id     int  not null references shop,
    purpose     text not null default current_purpose() check (purpose in ('work', 'practice')),
    engine_id   int  not null,
    vehicle_id  int  not null,
    since       timestamptz,
    until       timestamptz,
    noted_at    timestamptz not null default now(),
    noted_by    int,
    check (since < until),
    foreign key (shop_id, purpose, engine_id) references engine (shop_id, purpose, id) on delete cascade,
    foreign key (shop_id, purpose, vehicle_id) references vehicle (shop_id, purpose, id),
    foreign key (shop_id, noted_by) references person (shop_id, id),
    constraint one_place_at_a_time exclude using gist (engine_id with =, tstzrange(since, until) with &&)
);
create index engine_in_vehicle on engine_in (vehicle_id, until);
create index engine_in_engine on engine_in (engine_id, since);

alter table job add column engine_id int;
-- Until now a vehicle and what its jobs said of the engine were all that was known: jobs of one vehicle with as many
-- cylinders and the same fuel were of one engine, and the latest of them sits in it.
do $$
declare g record; made int;
begin
    for g in
        select j.shop_id, j.purpose, j.vehicle_id, array_agg(j.id) as jobs,
               (array_agg(v.sheet_id order by j.opened_at desc, j.number desc) filter (where v.sheet_id is not null))[1] as sheet,
               row_number() over (partition by j.vehicle_id order by max(j.opened_at) desc, max(j.number) desc) as place
        from job j left join engine_sheet_version v on v.id = j.sheet_version_id
        group by j.shop_id, j.purpose, j.vehicle_id, case when j.vehicle_id is null then j.id end,
                 j.record -> 'engine' ->> 'cylinders', coalesce(j.record -> 'engine' ->> 'fuel', 'petrol')
        order by min(j.id)
    loop
        insert into engine (shop_id, purpose, sheet_id) values (g.shop_id, g.purpose, g.sheet) returning id into made;
        update job set engine_id = made where id = any(g.jobs);
        if g.vehicle_id is not null and g.place = 1 then
            insert into engine_in (shop_id, purpose, engine_id, vehicle_id) values (g.shop_id, g.purpose, made, g.vehicle_id);
        end if;
    end loop;
end $$;
alter table job alter column engine_id set not null;
alter table job add foreign key (shop_id, purpose, engine_id) references engine (shop_id, purpose, id);
create index job_of_engine on job (engine_id, opened_at desc, number desc);

do $$
declare t text;
begin
    foreach t in array array['engine', 'engine_in'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose()) with check (shop_id = current_shop() and purpose = current_purpose())', t);
    end loop;
end $$;
create function search_engines(wanted text, most int) returns table (id int)
    language sql stable security definer set search_path = public as $$
    select e.id from engine e where e.shop_id = current_shop() and e.purpose = current_purpose() and e.serial is not null
        and e.search like search_pattern(wanted) order by e.id desc limit most $$;
-- One that was made for a slip of the pen goes again; one that has a job cannot.
grant select, insert, update, delete on engine, engine_in to $app$;
grant usage on all sequences in schema public to $app$;
grant execute on function search_engines(text, int) to $app$;
