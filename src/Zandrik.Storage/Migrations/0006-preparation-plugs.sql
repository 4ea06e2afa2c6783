-- Ticks of the preparation and refit lists: who, when, which way. A line unticked again is a row of its own.
create table job_tick (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    list        text   not null check (list in ('prepare', 'refit')),
    item        text   not null,
    way         text,
    done        boolean not null,
    at          timestamptz not null,
    by_person   int    not null,
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index job_tick_of_job on job_tick (job_id, list, item, id desc);
create trigger job_tick_is_append_only before update or delete or truncate on job_tick
    for each statement execute function refuse_change();
create trigger job_tick_is_told after insert on job_tick for each row execute function tell_of_test();

-- Why a job was closed with things still to be put back.
alter table job add column close_reason text;

-- Photos of plugs: drawn anew from what was sent, so that nothing but the picture is kept.
create table plug_photo (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    cylinder    int    not null,
    picture     bytea  not null,
    thumbnail   bytea  not null,
    width       int    not null,
    height      int    not null,
    at          timestamptz not null,
    by_person   int    not null,
    removed_at  timestamptz,
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index plug_photo_of_job on plug_photo (job_id, cylinder) where removed_at is null;

do $$
declare t text;
begin
    foreach t in array array['job_tick', 'plug_photo'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
    end loop;
end $$;
grant select, insert on job_tick to $app$;
grant select, insert, update (removed_at) on plug_photo to $app$;
grant usage on all sequences in schema public to $app$;
