-- What a shop knows of the cost of repairs better than the rules, and what it does not do: the whole of it, version after
-- version, the latest counts.
create table repair_policy (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    version     int    not null check (version > 0),
    body        jsonb  not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, version),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
-- What is known of the owner's side of a job, the latest counts.
create table decision_input (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    job_id      bigint not null,
    body        jsonb  not null,
    entry       uuid   not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, entry),
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index decision_input_of_job on decision_input (job_id, id desc);
-- What was chosen, with what it was chosen from as it stood then: kept as text, letter by letter.
create table decision (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    job_id      bigint not null,
    version     int    not null check (version > 0),
    chosen      text   not null,
    best        text   not null,
    reason      text,
    body        json   not null,
    entry       uuid   not null,
    at          timestamptz not null,
    by_person   int    not null,
    unique (shop_id, purpose, id),
    unique (shop_id, entry),
    unique (job_id, version),
    check (chosen = best or reason is not null),
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
-- Addresses that open one decision without a sign-in, for a while. The address itself is not kept.
create table owner_link (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    purpose     text   not null default current_purpose() check (purpose in ('work', 'practice')),
    job_id      bigint not null,
    decision_id bigint not null,
    hash        bytea  not null unique,
    at          timestamptz not null,
    by_person   int    not null,
    until       timestamptz not null,
    revoked_at  timestamptz,
    revoked_by  int,
    foreign key (shop_id, purpose, job_id) references job (shop_id, purpose, id),
    foreign key (shop_id, purpose, decision_id) references decision (shop_id, purpose, id),
    foreign key (shop_id, by_person) references person (shop_id, id),
    foreign key (shop_id, revoked_by) references person (shop_id, id)
);
create index owner_link_of_job on owner_link (job_id);

alter table repair_policy enable row level security;
alter table repair_policy force row level security;
create policy own_shop on repair_policy using (shop_id = current_shop()) with check (shop_id = current_shop());
do $$
declare t text;
begin
    foreach t in array array['decision_input', 'decision', 'owner_link'] loop
        execute format('alter table %I enable row level security', t);
        execute format('alter table %I force row level security', t);
        execute format('create policy own_shop_and_purpose on %I using (shop_id = current_shop() and purpose = current_purpose()) with check (shop_id = current_shop() and purpose = current_purpose())', t);
    end loop;
    foreach t in array array['repair_policy', 'decision_input', 'decision'] loop
        execute format('create trigger %I before update or delete or truncate on %I for each statement execute function refuse_change()', t || '_is_append_only', t);
    end loop;
    foreach t in array array['decision_input', 'decision'] loop
        execute format('create trigger %I after insert on %I referencing new table as changed for each statement execute function mark_jobs_of_rows()', t || '_is_marked', t);
    end loop;
end $$;
create trigger repair_policy_is_marked after insert on repair_policy for each row execute function mark_shop();
create trigger decision_is_told after insert on decision for each row execute function tell_of_test();

create function decision_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, new.by_person, 'decided', audit_job(new.job_id) || ', version ' || new.version || ', ' || new.chosen);
    return null;
end $$;
create trigger decision_is_audited after insert on decision for each row execute function decision_is_audited();
create function owner_link_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' then
        perform audit(new.shop_id, new.by_person, 'owner-link-made', audit_job(new.job_id));
    else
        perform audit(new.shop_id, new.revoked_by, 'owner-link-revoked', audit_job(new.job_id));
    end if;
    return null;
end $$;
create trigger owner_link_is_audited after insert or update of revoked_at on owner_link for each row execute function owner_link_is_audited();

grant select, insert on repair_policy, decision_input, decision, owner_link to $app$;
grant update (revoked_at, revoked_by) on owner_link to $app$;
grant usage on all sequences in schema public to $app$;

-- What an owner's address opens: the one question that is asked without a sign-in, and it answers nothing else. A guessed, a
-- revoked and an old one are all nothing.
create function decision_of_link(link_hash bytea, now timestamptz) returns table (shop text, settings text, time_zone text, job int, vehicle text, engine text, decided_at timestamptz, until timestamptz, body text)
    language sql stable security definer set search_path = public as $$
    select s.name, s.settings::text, s.time_zone, j.number, j.record -> 'vehicle' ->> 'label', (j.record -> 'engine')::text, d.at, l.until, d.body::text
    from owner_link l join decision d on d.id = l.decision_id join job j on j.id = l.job_id join shop s on s.id = l.shop_id
    where l.hash = link_hash and l.revoked_at is null and l.until > decision_of_link.now $$;
