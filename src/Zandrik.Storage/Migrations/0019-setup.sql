-- How far the guided set-up of a new shop is: the words of the steps that were done or skipped, and "over" when nobody
-- is to be asked any more. Shops from before it are through with it.
alter table shop add column setup text[] not null default '{}';
update shop set setup = '{over}';
grant update (setup) on shop to $app$;
