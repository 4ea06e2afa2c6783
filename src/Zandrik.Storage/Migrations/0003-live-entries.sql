-- Entries can wait on a tablet: what was typed at ten may be kept at half past. An undo that waited is known
-- again by its key, like an entry. A reading typed by one person over another's that was not on the screen
-- yet is kept beside it, with the question who is right.
alter table reading add column undo_entry uuid;
alter table reading add column kept_at timestamptz not null default now();
alter table reading add column beside jsonb;
alter table reading add constraint reading_undo_entry unique (shop_id, undo_entry);

-- Whoever looks at a job hears of what changes on it. The message names shop, job and row, never a figure.
create function tell_of_reading() returns trigger language plpgsql as $$
begin
    perform pg_notify('zandrik_job', new.shop_id || ' ' || j.number || ' ' || new.id)
    from test t join job j on j.id = t.job_id where t.id = new.test_id;
    return null;
end $$;
create trigger reading_is_told after insert on reading for each row execute function tell_of_reading();

create function tell_of_test() returns trigger language plpgsql as $$
begin
    perform pg_notify('zandrik_job', new.shop_id || ' ' || j.number || ' 0') from job j where j.id = new.job_id;
    return null;
end $$;
create trigger test_is_told after insert or update on test for each row execute function tell_of_test();

create function tell_of_job() returns trigger language plpgsql as $$
begin
    perform pg_notify('zandrik_job', new.shop_id || ' ' || new.number || ' 0');
    return null;
end $$;
create trigger job_is_told after update on job for each row execute function tell_of_job();
