-- What a page shows follows from rows; a number that rises with every row says whether they are still the same. It is
-- a row of its own beside the job, narrow, so that raising it does not copy the job; the triggers raise it in the
-- writing transaction, so that no statement can forget to. Writers hold the job first, so nobody waits crosswise.
create table job_mark (
    job_id  bigint primary key,
    shop_id int    not null references shop,
    version bigint not null,
    foreign key (shop_id, job_id) references job (shop_id, id) on delete cascade
) with (fillfactor = 50);
create table shop_mark (
    shop_id int primary key references shop,
    version bigint not null
) with (fillfactor = 50);
insert into job_mark select id, shop_id, 1 from job;
insert into shop_mark select id, 1 from shop;

create function mark_jobs() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, version) select distinct id, shop_id, 1 from changed order by id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create function mark_jobs_of_rows() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, version) select distinct job_id, shop_id, 1 from changed order by job_id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create function mark_jobs_of_readings() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, version) select distinct t.job_id, t.shop_id, 1 from changed c join test t on t.id = c.test_id order by t.job_id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;
create function mark_jobs_of_answers() returns trigger language plpgsql as $$
begin
    insert into job_mark (job_id, shop_id, version) select distinct k.job_id, k.shop_id, 1 from changed c join capture k on k.id = c.capture_id order by k.job_id
    on conflict (job_id) do update set version = job_mark.version + 1;
    return null;
end $$;

-- What every page of a shop may show: names of people, settings, gauges, what a vehicle is called.
create function mark_shop() returns trigger language plpgsql as $$
declare shop int;
begin
    if tg_table_name = 'shop' then
        shop := new.id;
    else
        shop := new.shop_id;
    end if;
    insert into shop_mark (shop_id, version) values (shop, 1) on conflict (shop_id) do update set version = shop_mark.version + 1;
    return null;
end $$;

do $$
declare t text; e text;
begin
    foreach t in array array['job_mark', 'shop_mark'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
    end loop;
    foreach e in array array['insert', 'update'] loop
        execute format('create trigger %I after %s on job referencing new table as changed for each statement execute function mark_jobs()', 'job_is_marked_by_' || e, e);
        foreach t in array array['test', 'job_tick', 'verdict', 'verdict_reopening', 'found_fault', 'capture', 'plug_photo'] loop
            execute format('create trigger %I after %s on %I referencing new table as changed for each statement execute function mark_jobs_of_rows()', t || '_is_marked_by_' || e, e, t);
        end loop;
    end loop;
end $$;
create trigger reading_is_marked after insert on reading referencing new table as changed for each statement execute function mark_jobs_of_readings();
create trigger capture_answer_is_marked after insert on capture_answer referencing new table as changed for each statement execute function mark_jobs_of_answers();
create trigger shop_is_marked_when_made after insert on shop for each row execute function mark_shop();
create trigger shop_is_marked after update of name, time_zone, unit, settings on shop for each row execute function mark_shop();
create trigger person_is_marked after update of name, role on person for each row execute function mark_shop();
create trigger vehicle_is_marked after update on vehicle for each row when (old.* is distinct from new.*) execute function mark_shop();
create trigger tester_is_marked after insert or update on tester for each row execute function mark_shop();
grant select, insert, update on job_mark, shop_mark to $app$;
