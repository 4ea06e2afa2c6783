-- Liquid in a cylinder has a way out of its lock, ticked line by line; oil has an amount.
alter table job_tick drop constraint job_tick_list_check;
alter table job_tick add constraint job_tick_list_check check (list in ('prepare', 'refit', 'leak', 'crank', 'oil', 'running', 'relative', 'liquid'));
alter table job_tick add column amount double precision;

-- Intake and conditions are never overwritten: what stood there before stays, with who changed it and when. The
-- trigger writes it, so that no statement can forget to. zandrik.person is set with the shop by whoever signs in.
create function current_person() returns int language sql stable as
    $$ select nullif(current_setting('zandrik.person', true), '')::int $$;
create table job_version (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    record      jsonb  not null,
    changed_at  timestamptz not null default now(),
    changed_by  int,
    foreign key (shop_id, job_id) references job (shop_id, id)
);
create index job_version_of_job on job_version (job_id, id);
create table test_version (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    test_id     bigint not null,
    body        jsonb  not null,
    changed_at  timestamptz not null default now(),
    changed_by  int,
    foreign key (shop_id, test_id) references test (shop_id, id)
);
create index test_version_of_test on test_version (test_id, id);

create function keep_job_version() returns trigger language plpgsql as $$
begin
    insert into job_version (shop_id, job_id, record, changed_by) values (old.shop_id, old.id, old.record, current_person());
    return null;
end $$;
create trigger job_keeps_versions after update of record on job for each row when (old.record is distinct from new.record) execute function keep_job_version();
create function keep_test_version() returns trigger language plpgsql as $$
begin
    insert into test_version (shop_id, test_id, body, changed_by) values (old.shop_id, old.id, old.body, current_person());
    return null;
end $$;
create trigger test_keeps_versions after update of body on test for each row when (old.body is distinct from new.body) execute function keep_test_version();

do $$
declare t text;
begin
    foreach t in array array['job_version', 'test_version'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
    end loop;
end $$;
grant select, insert on job_version, test_version to $app$;
grant usage on all sequences in schema public to $app$;

-- Ready means that a write is possible: a full disk still answers questions.
create table heartbeat (
    id int primary key check (id = 1),
    at timestamptz not null
);
insert into heartbeat values (1, now());
grant select, update on heartbeat to $app$;
