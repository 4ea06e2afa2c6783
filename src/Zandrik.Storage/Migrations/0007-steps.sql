-- What is done at the steps after the dry test: where the crank is, air on and off, oil in and spun, each line of
-- their guards. Kept in order like the ticks; what waited on a tablet is known again by its key.
alter table job_tick drop constraint job_tick_list_check;
alter table job_tick add constraint job_tick_list_check check (list in ('prepare', 'refit', 'leak', 'crank', 'oil', 'running'));
alter table job_tick add column entry uuid;
alter table job_tick add constraint job_tick_entry unique (shop_id, entry);

-- A small check is one form: corrected, a new one takes its place and the old one stays, withdrawn.
alter table test add column entry uuid;
alter table test add constraint test_entry unique (shop_id, entry);
alter table test add column withdrawn_at timestamptz;
alter table test add column withdrawn_by int;
alter table test add foreign key (shop_id, withdrawn_by) references person (shop_id, id);

-- A request that added a test, so that the same one sent again adds no other.
alter table idempotency add column test_id bigint;
alter table idempotency add foreign key (shop_id, test_id) references test (shop_id, id);
