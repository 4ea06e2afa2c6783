-- What was noted before the first reading is how the test was begun; what was put right afterwards is a change, and is
-- shown as one. By what stood in the database, not by clocks: a reading that waited on a tablet has the time it was typed.
alter table test_version add column after_reading boolean not null default false;
create or replace function keep_test_version() returns trigger language plpgsql as $$
begin
    insert into test_version (shop_id, test_id, body, changed_by, after_reading)
    values (old.shop_id, old.id, old.body, current_person(), exists (select 1 from reading r where r.test_id = old.id));
    return null;
end $$;
