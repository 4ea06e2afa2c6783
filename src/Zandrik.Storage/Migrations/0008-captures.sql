-- Captures of starter current as they came, compressed, in pieces that fit through any memory; with what was read from them.
create table capture (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    test_id     bigint not null,
    name        text   not null,
    bytes       bigint not null,
    layout      jsonb  not null,
    answer      jsonb  not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, id),
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, test_id) references test (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index capture_of_job on capture (job_id);
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

do $$
declare t text;
begin
    foreach t in array array['capture', 'capture_piece'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
    end loop;
end $$;
grant select, insert on capture, capture_piece to $app$;
grant usage on all sequences in schema public to $app$;
