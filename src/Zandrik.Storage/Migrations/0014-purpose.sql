-- Practice looks like work and must never be counted as work. So what belongs to a job knows its purpose, the policy of
-- every such table asks for shop and purpose, and a row can only hang on a row of its own purpose. A connection that
-- names no purpose sees work.
create function current_purpose() returns text language sql stable as
    $$ select coalesce(nullif(current_setting('zandrik.purpose', true), ''), 'work') $$;

do $$
declare t text; f record;
begin
    foreach t in array array['vehicle', 'job', 'test', 'reading', 'idempotency', 'job_tick', 'plug_photo', 'capture', 'capture_answer', 'capture_piece',
                             'verdict', 'verdict_reopening', 'found_fault', 'job_version', 'test_version', 'job_mark'] loop
        execute format('alter table %I add column purpose text not null default ''work'' check (purpose in (''work'', ''practice''))', t);
        execute format('alter table %I alter column purpose set default current_purpose()', t);
        execute format('drop policy own_shop on %I', t);
        execute format('create policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose()) with check (shop_id = current_shop() and purpose = current_purpose())', t);
    end loop;
    foreach t in array array['vehicle', 'job', 'test', 'capture', 'verdict'] loop
        execute format('alter table %I add unique (shop_id, purpose, id)', t);
    end loop;
    for f in select c.conname, c.conrelid::regclass::text as of, pg_get_constraintdef(c.oid) as says from pg_constraint c
             where c.contype = 'f' and c.confrelid::regclass::text = any(array['vehicle', 'job', 'test', 'capture', 'verdict']) and pg_get_constraintdef(c.oid) like '%(shop_id, %' loop
        execute format('alter table %I drop constraint %I', f.of, f.conname);
        execute format('alter table %I add constraint %I %s', f.of, f.conname, replace(f.says, '(shop_id, ', '(shop_id, purpose, '));
    end loop;
end $$;
-- The same key and the same name may be used in work and in practice.
drop index vehicle_label;
create unique index vehicle_label on vehicle (shop_id, purpose, lower(label));
alter table idempotency drop constraint idempotency_pkey;
alter table idempotency add primary key (shop_id, purpose, key);

create or replace function mark_jobs() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, purpose, version) select distinct id, shop_id, purpose, 1 from changed order by id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create or replace function mark_jobs_of_rows() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, purpose, version) select distinct job_id, shop_id, purpose, 1 from changed order by job_id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create or replace function mark_jobs_of_readings() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, purpose, version) select distinct t.job_id, t.shop_id, t.purpose, 1 from changed c join test t on t.id = c.test_id order by t.job_id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create or replace function mark_jobs_of_answers() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, purpose, version) select distinct k.job_id, k.shop_id, k.purpose, 1 from changed c join capture k on k.id = c.capture_id order by k.job_id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create or replace function keep_job_version() returns trigger language plpgsql as $$
begin
    insert into job_version (shop_id, purpose, job_id, record, changed_by) values (old.shop_id, old.purpose, old.id, old.record, current_person());
    return null;
end $$;

-- What runs with the owner's eyes passes no policy: it asks for the purpose itself.
create or replace function search_jobs(wanted text, most int) returns table (number int)
    language plpgsql stable security definer set search_path = public as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge timestamptz;
begin
    return query select j.number from
        (select i.number, i.search, i.opened_at from job i where i.shop_id = current_shop() and i.purpose = current_purpose() order by i.opened_at desc, i.number desc limit 1500) j
        where j.search like pattern or j.number::text = wanted order by j.opened_at desc, j.number desc limit most;
    get diagnostics found = row_count;
    if found < most and wanted ~ '^[0-9]{1,9}$' then
        return query select i.number from job i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.number = wanted::int
            and i.number not in (select k.number from job k where k.shop_id = current_shop() and k.purpose = current_purpose() order by k.opened_at desc, k.number desc limit 1500);
    end if;
    if found < most and length(wanted) >= 3 then
        select min(j.opened_at) into edge from
            (select i.opened_at from job i where i.shop_id = current_shop() and i.purpose = current_purpose() order by i.opened_at desc, i.number desc limit 1500) j;
        return query execute 'select i.number from job i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.search like $1 and i.opened_at < $2
            order by i.opened_at desc, i.number desc limit $3' using pattern, edge, most - found;
    end if;
end $$;

create or replace function search_vehicles(wanted text, most int) returns table (id int)
    language plpgsql stable security definer set search_path = public as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge int;
begin
    return query select v.id from
        (select i.id, i.search from vehicle i where i.shop_id = current_shop() and i.purpose = current_purpose() order by i.id desc limit 1500) v
        where v.search like pattern order by v.id desc limit most;
    get diagnostics found = row_count;
    if found < most and length(wanted) >= 3 then
        select min(v.id) into edge from (select i.id from vehicle i where i.shop_id = current_shop() and i.purpose = current_purpose() order by i.id desc limit 1500) v;
        return query execute 'select i.id from vehicle i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.search like $1 and i.id < $2 order by i.id desc limit $3'
            using pattern, edge, most - found;
    end if;
end $$;
