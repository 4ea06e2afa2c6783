-- The life of an engine: what was done on it, what its odometers mean, where it went, and what is derived of all that for the
-- whole fleet.

-- Work that was done, with what it really took. A slip is put right by a row that takes its place, or taken back; nothing
-- is overwritten.
create table repair_done (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    job_id      bigint not null,
    -- What had been decided when it was written down.
    decision_id bigint,
    body        jsonb  not null,
    replaces    bigint,
    entry       uuid   not null,
    done_at     timestamptz not null,
    at          timestamptz not null,
    by_person   int    not null,
    withdrawn_at timestamptz,
    withdrawn_by int,
    unique (shop_id, purpose, id),
    unique (shop_id, entry),
    unique (replaces),
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, purpose, decision_id) references decision (shop_id, purpose, id),
    foreign key (shop_id, purpose, replaces) references repair_done (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id),
    foreign key (shop_id, withdrawn_by) references person (shop_id, id)
);
create index repair_done_of_job on repair_done (job_id, id);

-- Whether the odometer was changed before a job; the latest row counts.
create table odometer_note (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    job_id      bigint not null,
    replaced    boolean not null,
    at          timestamptz not null,
    by_person   int    not null,
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index odometer_note_of_job on odometer_note (job_id, id desc);

-- Sold, scrapped: nothing is due on it any more.
alter table engine add column gone_at timestamptz;
alter table engine add column gone_why text check (gone_why in ('sold', 'scrapped', 'elsewhere'));
alter table engine add constraint engine_gone_says_why check ((gone_at is null) = (gone_why is null));

-- What a verdict says of the engine, beside the whole of it: a list asks for it often.
alter table verdict add column state text generated always as (snapshot ->> 'state') stored;

-- When engines are tested again at the latest.
alter table shop add column retest_months int not null default 12 check (retest_months between 1 and 120);
alter table shop add column retest_km double precision not null default 20000 check (retest_km > 0);
alter table shop add column retest_hours double precision not null default 800 check (retest_hours > 0);

-- A number that rises with every row of an engine's jobs, as job_mark does for one job: a list of thousands of engines asks
-- for it alone.
create table engine_mark (
    engine_id   int primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    version     bigint not null,
    foreign key (shop_id, purpose, engine_id) references engine (shop_id, purpose, id) on delete cascade
) with (fillfactor = 50);
insert into engine_mark (engine_id, shop_id, purpose, version) select id, shop_id, purpose, 1 from engine;

create function mark_engines() returns trigger language plpgsql as $$
begin
    insert into engine_mark (engine_id, shop_id, purpose, version) select distinct j.engine_id, j.shop_id, j.purpose, 1 from changed c join job j on j.id = c.job_id order by j.engine_id
    on conflict (engine_id) do update set version = engine_mark.version + 1;
    return null;
end $$;
-- A job that is put on another engine leaves the one it was on.
create function mark_engine_left() returns trigger language plpgsql as $$
begin
    update engine_mark set version = version + 1 where engine_id = old.engine_id;
    return null;
end $$;

-- What a list of all engines shows of each, worked out from its jobs when they stood at that mark and the rule was that.
-- It may be thrown away at any time.
create table engine_summary (
    engine_id   int primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    mark        text   not null,
    design      text,
    tests       int    not null,
    tested_at   timestamptz,
    cylinder    int,
    lowest_pa   double precision,
    margin      double precision,
    per_step    double precision,
    unit        text   not null check (unit in ('km', 'mi', 'h')),
    run         double precision,
    due         timestamptz,
    why         text   not null,
    meets       double precision,
    doubts      int    not null,
    undecided   boolean not null default false,
    -- The latest job, and whether there are only sample jobs.
    job         int    not null,
    sample      boolean not null,
    foreign key (shop_id, purpose, engine_id) references engine (shop_id, purpose, id) on delete cascade
);
create index engine_summary_due on engine_summary (shop_id, due) where due is not null;

-- Secret addresses of the calendar of retests. The address itself is not kept.
create table calendar_feed (
    id          int generated always as identity primary key,
    shop_id     int    not null references shop,
    hash        bytea  not null unique,
    at          timestamptz not null,
    by_person   int    not null,
    revoked_at  timestamptz,
    revoked_by  int,
    foreign key (shop_id, by_person) references person (shop_id, id),
    foreign key (shop_id, revoked_by) references person (shop_id, id)
);

-- Sheets for buying and selling, letter by letter as they were handed out, with the code that tells a genuine one.
create table selling_sheet (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    job_id      bigint not null,
    version     int    not null check (version > 0),
    code        text   not null unique,
    body        json   not null,
    entry       uuid   not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, entry),
    unique (job_id, version),
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);

-- The shop's archive, made once and fetched in pieces, from whichever copy of the server is asked.
create table archive (
    id          int generated always as identity primary key,
    shop_id     int    not null references shop,
    at          timestamptz not null,
    by_person   int    not null,
    jobs        int    not null,
    done        int    not null default 0,
    bytes       bigint not null default 0,
    touched_at  timestamptz not null,
    finished_at timestamptz,
    failed      text,
    unique (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create table archive_piece (
    archive_id  int    not null,
    n           int    not null,
    shop_id     int    not null references shop,
    body        bytea  not null,
    primary key (archive_id, n),
    foreign key (shop_id, archive_id) references archive (shop_id, id) on delete cascade
);
alter table archive_piece alter column body set storage external;

do $$
declare t text;
begin
    foreach t in array array['calendar_feed', 'archive', 'archive_piece'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
    end loop;
    foreach t in array array['repair_done', 'odometer_note', 'engine_mark', 'engine_summary', 'selling_sheet'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose()) with check (shop_id = current_shop() and purpose = current_purpose())', t);
    end loop;
    foreach t in array array['odometer_note', 'selling_sheet'] loop
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
    end loop;
    foreach t in array array['repair_done', 'odometer_note'] loop
        execute format('create trigger %I after insert on %I referencing new table as changed for each statement execute function mark_jobs_of_rows()', t || '_is_marked', t);
    end loop;
end $$;
create trigger job_mark_marks_engines_when_made after insert on job_mark referencing new table as changed for each statement execute function mark_engines();
create trigger job_mark_marks_engines after update on job_mark referencing new table as changed for each statement execute function mark_engines();
create trigger job_leaves_its_engine after update of engine_id on job for each row when (old.engine_id <> new.engine_id) execute function mark_engine_left();
create trigger repair_done_is_marked_again after update on repair_done referencing new table as changed for each statement execute function mark_jobs_of_rows();
create trigger repair_done_is_told after insert or update on repair_done for each row execute function tell_of_test();

create function repair_done_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' then
        perform audit(new.shop_id, new.by_person, case when new.replaces is null then 'repair-noted' else 'repair-put-right' end, audit_job(new.job_id) || ', ' || (new.body ->> 'option'));
    else
        perform audit(new.shop_id, new.withdrawn_by, 'repair-withdrawn', audit_job(new.job_id) || ', ' || (new.body ->> 'option'));
    end if;
    return null;
end $$;
create trigger repair_done_is_audited after insert or update of withdrawn_at on repair_done for each row execute function repair_done_is_audited();
create function calendar_feed_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' then
        perform audit(new.shop_id, new.by_person, 'calendar-address-made', 'retests');
    else
        perform audit(new.shop_id, new.revoked_by, 'calendar-address-revoked', 'retests');
    end if;
    return null;
end $$;
create trigger calendar_feed_is_audited after insert or update of revoked_at on calendar_feed for each row execute function calendar_feed_is_audited();
create function selling_sheet_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, new.by_person, 'selling-sheet-made', audit_job(new.job_id) || ', version ' || new.version);
    return null;
end $$;
create trigger selling_sheet_is_audited after insert on selling_sheet for each row execute function selling_sheet_is_audited();

grant select, insert on repair_done, odometer_note, calendar_feed, selling_sheet to $app$;
grant update (withdrawn_at, withdrawn_by) on repair_done to $app$;
grant update (revoked_at, revoked_by) on calendar_feed to $app$;
grant select, insert, update, delete on engine_mark, engine_summary, archive, archive_piece to $app$;
grant update (retest_months, retest_km, retest_hours) on shop to $app$;
grant usage on all sequences in schema public to $app$;

-- What a calendar's address and a check code open: asked without a sign-in, and answering nothing else.
create function shop_of_feed(feed_hash bytea) returns table (shop_id int, person_id int)
    language sql stable security definer set search_path = public as $$
    select f.shop_id, f.by_person from calendar_feed f where f.hash = feed_hash and f.revoked_at is null $$;
create function sheet_of_code(wanted text) returns table (shop text, settings text, time_zone text, job int, vehicle text, issued_at timestamptz, issued_by text, version int, latest int, body text)
    language sql stable security definer set search_path = public as $$
    select s.name, s.settings::text, s.time_zone, j.number, j.record -> 'vehicle' ->> 'label', h.at, p.name, h.version, (select max(o.version) from selling_sheet o where o.job_id = h.job_id), h.body::text
    from selling_sheet h join job j on j.id = h.job_id join shop s on s.id = h.shop_id join person p on p.id = h.by_person
    where h.code = wanted $$;
revoke all on function shop_of_feed(bytea) from public;
revoke all on function sheet_of_code(text) from public;
grant execute on function shop_of_feed(bytea) to $app$;
grant execute on function sheet_of_code(text) to $app$;

-- For programs that analyse: views that read one shop's work and nothing else. docs/analysis.md says how to connect.
create schema analysis;
create view analysis.job as
    select j.id as job_id, j.number, j.engine_id, j.vehicle_id, j.record -> 'vehicle' ->> 'label' as vehicle, j.record -> 'engine' ->> 'name' as engine, j.record -> 'engine' ->> 'fuel' as fuel,
           (j.record -> 'engine' ->> 'cylinders')::int as cylinders, (j.record -> 'vehicle' -> 'odometer' ->> 'value')::double precision as odometer, j.record -> 'vehicle' -> 'odometer' ->> 'unit' as odometer_unit,
           j.record ->> 'complaint' as complaint, j.opened_at, p.name as opened_by, j.closed_at
    from public.job j join public.person p on p.id = j.opened_by
    where j.shop_id = public.current_shop() and j.purpose = 'work' and j.withdrawn_at is null and not j.sample;
create view analysis.test as
    select t.id as test_id, t.job_id, t.kind, t.made_at as at, t.body -> 'tester' ->> 'label' as tester, t.body -> 'conditions' ->> 'engineTemperature' as engine_temperature, t.body -> 'conditions' ->> 'throttle' as throttle
    from public.test t join analysis.job j on j.job_id = t.job_id
    where t.shop_id = public.current_shop() and t.withdrawn_at is null;
create view analysis.reading as
    select r.id as reading_id, r.test_id, t.job_id, t.kind, coalesce((r.body ->> 'cylinder')::int, r.slot) as cylinder, r.pressure_pa, r.body ->> 'value' as as_read, (r.body ->> 'leakPercent')::double precision as leak_percent,
           (r.body ->> 'relativePercent')::double precision as relative_percent, r.taken_at, p.name as by
    from public.reading r join analysis.test t on t.test_id = r.test_id join public.person p on p.id = r.by_person
    where r.shop_id = public.current_shop() and r.body is not null and not exists (select 1 from public.reading n where n.supersedes = r.id);
create view analysis.found as
    select f.job_id, (f.body ->> 'cylinder')::int as cylinder, f.body ->> 'fault' as fault, f.body ->> 'says' as says, f.at
    from public.found_fault f join analysis.job j on j.job_id = f.job_id where f.shop_id = public.current_shop() and f.withdrawn_at is null;
create view analysis.repair as
    select d.id as repair_id, d.job_id, d.body ->> 'option' as option, (d.body ->> 'minutes')::double precision as minutes, (d.body ->> 'wasRight')::boolean as was_right, d.done_at
    from public.repair_done d join analysis.job j on j.job_id = d.job_id
    where d.shop_id = public.current_shop() and d.withdrawn_at is null and not exists (select 1 from public.repair_done n where n.replaces = d.id and n.withdrawn_at is null);
create view analysis.decision as
    select d.job_id, d.version, d.chosen, d.best, d.reason, d.at from public.decision d join analysis.job j on j.job_id = d.job_id where d.shop_id = public.current_shop() and d.purpose = 'work';
grant usage on schema analysis to $app$;
grant select on all tables in schema analysis to $app$;
