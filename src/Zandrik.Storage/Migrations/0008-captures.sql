-- Captures of starter current as they came, compressed, in pieces that fit through any memory; with what was read from them.
create table capture (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    -- The clamp it came from: how its captures are read is remembered.
    tester_id   int references tester,
    name        text   not null,
    bytes       bigint not null,
    entry       uuid   not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, id),
    unique (shop_id, entry),
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index capture_of_job on capture (job_id);
create index capture_of_tester on capture (tester_id);
-- What was said of a capture, and how it was read for that. The latest counts; an earlier one stays.
create table capture_answer (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    capture_id  bigint not null,
    test_id     bigint,
    shape       text   not null,
    layout      jsonb  not null,
    question    jsonb  not null,
    answer      jsonb  not null,
    picture     bytea,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, id),
    foreign key (shop_id, capture_id) references capture (shop_id, id),
    foreign key (shop_id, test_id) references test (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index answer_of_capture on capture_answer (capture_id);
alter table capture_answer alter column picture set storage external;
create table capture_piece (
    shop_id     int    not null references shop,
    capture_id  bigint not null,
    position    int    not null,
    bytes       bytea  not null,
    primary key (capture_id, position),
    foreign key (shop_id, capture_id) references capture (shop_id, id)
);
-- They are compressed already.
alter table capture_piece alter column bytes set storage external;

-- What is done before a capture is ticked like any other list.
alter table job_tick drop constraint job_tick_list_check;
alter table job_tick add constraint job_tick_list_check check (list in ('prepare', 'refit', 'leak', 'crank', 'oil', 'running', 'relative'));

do $$
declare t text;
begin
    foreach t in array array['capture', 'capture_answer', 'capture_piece'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
    end loop;
end $$;
grant select, insert on capture, capture_answer, capture_piece to $app$;
grant usage on all sequences in schema public to $app$;
