-- Gauges, leak-down testers and clamps. A test takes a copy of its tester along, so changing one here
-- rewrites nothing.
create table tester (
    id          int generated always as identity primary key,
    shop_id     int   not null references shop,
    body        jsonb not null,
    label       text  generated always as (body ->> 'label') stored,
    retired_at  timestamptz,
    unique (shop_id, label)
);
alter table tester enable row level security;
alter table tester force row level security;
create policy own_shop on tester using (shop_id = current_shop()) with check (shop_id = current_shop());
grant select, insert, update on tester to $app$;
grant usage on all sequences in schema public to $app$;
