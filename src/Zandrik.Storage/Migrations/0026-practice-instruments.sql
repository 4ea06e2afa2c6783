-- Exercises on simulated engines. A run is a job of the purpose practice, so it has every step of a job and is never counted
-- as one; what belongs to the exercise itself stands here, under the same policy.

-- Numbers of their own, so that an address says which of the two it is and work has no gaps for practice.
alter table shop add column next_practice int not null default 900000001 check (next_practice > 900000000);
alter table job add constraint job_number_says_its_purpose check ((purpose = 'practice') = (number > 900000000)) not valid;

-- What a foreman set somebody, or everybody, to do.
create table practice_exercise (
    id           bigint generated always as identity primary key,
    shop_id      int    not null references shop,
    purpose      text   not null default current_purpose() check (purpose = 'practice'),
    case_number  int    not null check (case_number > 0),
    person_id    int,
    due          date,
    says         text,
    at           timestamptz not null,
    by_person    int    not null,
    withdrawn_at timestamptz,
    unique (shop_id, purpose, id),
    foreign key (shop_id, person_id) references person (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create table practice_run (
    job_id       bigint primary key,
    shop_id      int    not null references shop,
    purpose      text   not null default current_purpose() check (purpose = 'practice'),
    person_id    int    not null,
    case_number  int    not null check (case_number > 0),
    exercise_id  bigint,
    at           timestamptz not null,
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, purpose, exercise_id) references practice_exercise (shop_id, purpose, id),
    foreign key (shop_id, person_id) references person (shop_id, id)
);
create index practice_run_of_person on practice_run (shop_id, person_id, at desc);
-- What was done that costs minutes, or was refused because it would hurt somebody.
create table practice_act (
    id           bigint generated always as identity primary key,
    shop_id      int    not null references shop,
    purpose      text   not null default current_purpose() check (purpose = 'practice'),
    job_id       bigint not null,
    act          text   not null,
    cylinder     int,
    says         text,
    check_word   text,
    entry        uuid   not null,
    at           timestamptz not null,
    by_person    int    not null,
    unique (shop_id, entry),
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index practice_act_of_job on practice_act (job_id, id);
-- What was called, and what it was worth: once for each run.
create table practice_call (
    job_id       bigint primary key,
    shop_id      int    not null references shop,
    purpose      text   not null default current_purpose() check (purpose = 'practice'),
    body         jsonb  not null,
    total        int    not null check (total between 0 and 100),
    at           timestamptz not null,
    by_person    int    not null,
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);

-- The shop's instruments: addresses that its server may call, and no others.
create table instrument (
    id           int    generated always as identity primary key,
    shop_id      int    not null references shop,
    name         text   not null,
    kind         text   not null check (kind in ('gauge', 'leak-down', 'recorder')),
    address      text   not null,
    identity     text,
    seen_at      timestamptz,
    retired_at   timestamptz,
    -- Who has it just now, for whichever copy of the server asks; over by itself.
    taken_by     int,
    taken_until  timestamptz,
    unique (shop_id, id),
    foreign key (shop_id, taken_by) references person (shop_id, id)
);
create unique index instrument_name on instrument (shop_id, lower(name)) where retired_at is null;

do $$
declare t text;
begin
    foreach t in array array['practice_exercise', 'practice_run', 'practice_act', 'practice_call'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose()) with check (shop_id = current_shop() and purpose = current_purpose())', t);
    end loop;
    foreach t in array array['practice_run', 'practice_act', 'practice_call'] loop
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
        execute format('create trigger %I after insert on %I referencing new table as changed for each statement execute function mark_jobs_of_rows()', t || '_is_marked', t);
    end loop;
end $$;
alter table instrument enable row level security;
alter table instrument force row level security;
create policy own_shop on instrument using (shop_id = current_shop()) with check (shop_id = current_shop());

-- What is practised is nobody's business but that of whoever practises and the foreman.
create or replace function job_is_audited() returns trigger language plpgsql as $$
begin
    if new.purpose <> 'work' then
        return null;
    end if;
    if new.closed_at is not null and old.closed_at is null then
        perform audit(new.shop_id, null, 'job-closed', 'job ' || new.number);
    elsif new.closed_at is null and old.closed_at is not null then
        perform audit(new.shop_id, null, 'job-opened-again', 'job ' || new.number);
    end if;
    if new.withdrawn_at is not null and old.withdrawn_at is null then
        perform audit(new.shop_id, null, 'job-withdrawn', 'job ' || new.number);
    end if;
    return null;
end $$;

grant select, insert on practice_run, practice_act, practice_call, practice_exercise to $app$;
grant update (withdrawn_at) on practice_exercise to $app$;
grant select, insert, update on instrument to $app$;
grant update (next_practice) on shop to $app$;
grant usage on all sequences in schema public to $app$;
