-- The application has its statements planned once, whatever the values. A search is the exception: which index serves
-- depends on how common the letters are, and that is only known with them.
alter function search_jobs(text, int) set plan_cache_mode = force_custom_plan;
alter function search_vehicles(text, int) set plan_cache_mode = force_custom_plan;
alter function search_sheets(text, int) set plan_cache_mode = force_custom_plan;

-- As for vehicles: newest first, the latest looked through, and only what is not found there asked of the index. Asked
-- in one statement it read every engine of the shop for letters that none has.
create or replace function search_engines(wanted text, most int) returns table (id int)
    language plpgsql stable security definer set search_path = public set plan_cache_mode = force_custom_plan as $$
declare
    pattern text := search_pattern(wanted);
    found int;
    edge int;
begin
    return query select e.id from
        (select i.id, i.search from engine i where i.shop_id = current_shop() and i.purpose = current_purpose() order by i.id desc limit 1500) e
        where e.search like pattern order by e.id desc limit most;
    get diagnostics found = row_count;
    if found < most and length(wanted) >= 3 then
        select min(e.id) into edge from (select i.id from engine i where i.shop_id = current_shop() and i.purpose = current_purpose() order by i.id desc limit 1500) e;
        return query execute 'select i.id from engine i where i.shop_id = current_shop() and i.purpose = current_purpose() and i.search like $1 and i.id < $2 order by i.id desc limit $3'
            using pattern, edge, most - found;
    end if;
end $$;
create index engine_newest on engine (shop_id, purpose, id desc);
