-- A verdict that was signed, as it stood then: kept as text, letter by letter. Reopened, it stays, and the next one has the next version.
create table verdict (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    version     int    not null check (version > 0),
    agrees      boolean not null,
    reason      text,
    -- What Zandrik had in front and what the people say, cylinder by cylinder, with what each fault was given.
    said        jsonb  not null,
    snapshot    json   not null,
    entry       uuid   not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, id),
    unique (shop_id, entry),
    unique (job_id, version),
    check (agrees or reason is not null),
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create table verdict_reopening (
    verdict_id  bigint primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    why         text   not null,
    at          timestamptz not null,
    by_person   int    not null,
    foreign key (shop_id, verdict_id) references verdict (shop_id, id),
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
-- What was found when the engine was open. A slip is taken back and stays, withdrawn.
create table found_fault (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    job_id      bigint not null,
    body        jsonb  not null,
    entry       uuid,
    at          timestamptz not null,
    by_person   int    not null,
    withdrawn_at timestamptz,
    withdrawn_by int,
    unique (shop_id, entry),
    foreign key (shop_id, job_id) references job (shop_id, id),
    foreign key (shop_id, by_person) references person (shop_id, id),
    foreign key (shop_id, withdrawn_by) references person (shop_id, id)
);
create index found_of_job on found_fault (job_id);
-- It stood in the record before.
insert into found_fault (shop_id, job_id, body, at, by_person)
select j.shop_id, j.id, f.body, coalesce((f.body ->> 'at')::timestamptz, j.closed_at, j.opened_at), j.opened_by
from job j cross join lateral jsonb_array_elements(j.record -> 'found') with ordinality as f (body, n) order by j.id, f.n;
update job set record = record - 'found' where record ? 'found';

create trigger verdict_is_told after insert on verdict for each row execute function tell_of_test();
create trigger reopening_is_told after insert on verdict_reopening for each row execute function tell_of_test();
create trigger found_fault_is_told after insert or update on found_fault for each row execute function tell_of_test();

do $$
declare t text;
begin
    foreach t in array array['verdict', 'verdict_reopening', 'found_fault'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop on %I using (shop_id = current_shop()) with check (shop_id = current_shop())', t);
    end loop;
    foreach t in array array['verdict', 'verdict_reopening'] loop
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
    end loop;
end $$;
grant select, insert on verdict, verdict_reopening, found_fault to $app$;
grant update (withdrawn_at, withdrawn_by) on found_fault to $app$;
grant usage on all sequences in schema public to $app$;
