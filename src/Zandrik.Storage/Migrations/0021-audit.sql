-- Who did what that matters beyond a job: signed in, changed a role, signed, opened again, handed out, took away, restored.
-- Written by triggers in the transaction that does it, so that no code can forget it; nobody can change or remove a line.
create table audit_event (
    id          bigint generated always as identity primary key,
    shop_id     int    not null references shop,
    at          timestamptz not null default clock_timestamp(),
    -- Whoever did it; absent where nobody was signed in.
    by_person   int,
    what        text   not null check (what ~ '^[a-z-]{3,40}$'),
    about       text   not null check (length(about) <= 300),
    foreign key (shop_id, by_person) references person (shop_id, id)
);
create index audit_event_of_shop on audit_event (shop_id, id desc);
alter table audit_event enable row level security;
alter table audit_event force row level security;
create policy own_shop on audit_event using (shop_id = current_shop()) with check (shop_id = current_shop());
grant select, insert on audit_event to $app$;
grant usage on all sequences in schema public to $app$;

create function audit_event_stays() returns trigger language plpgsql as $$
begin
    raise exception 'what was done is never changed or removed' using errcode = 'insufficient_privilege';
end $$;
create trigger audit_event_stays before update or delete or truncate on audit_event for each statement execute function audit_event_stays();

create function audit(shop int, person int, what text, about text) returns void language sql as $$
    insert into audit_event (shop_id, by_person, what, about)
    values (shop, coalesce(person, nullif(current_setting('zandrik.person', true), '')::int), what, left(about, 300));
$$;
create function audit_job(job bigint) returns text language sql stable as $$ select 'job ' || number from job where id = $1 $$;

create function session_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' then
        perform audit(new.shop_id, new.person_id, 'signed-in', new.device);
    elsif new.ended_at is not null and old.ended_at is null then
        perform audit(new.shop_id, new.person_id, 'signed-out', new.device);
    end if;
    return null;
end $$;
create trigger session_is_audited after insert or update of ended_at on session for each row execute function session_is_audited();

create function person_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' then
        perform audit(new.shop_id, null, 'person-added', new.name || ', ' || new.role);
        return null;
    end if;
    if new.role <> old.role then
        perform audit(new.shop_id, null, 'role-changed', new.name || ', ' || old.role || ' to ' || new.role);
    end if;
    if new.left_at is not null and old.left_at is null then
        perform audit(new.shop_id, null, 'person-left', new.name);
    elsif new.left_at is null and old.left_at is not null then
        perform audit(new.shop_id, null, 'person-back', new.name);
    end if;
    if new.password_hash is distinct from old.password_hash then
        perform audit(new.shop_id, null, 'password-changed', new.name);
    elsif new.stamp <> old.stamp and new.left_at is not distinct from old.left_at then
        perform audit(new.shop_id, null, 'signed-out-everywhere', new.name);
    end if;
    return null;
end $$;
create trigger person_is_audited after insert or update on person for each row execute function person_is_audited();

create function link_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, null, 'link-made', (select name from person where id = new.person_id));
    return null;
end $$;
create trigger link_is_audited after insert on one_time_link for each row execute function link_is_audited();

create function token_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'INSERT' then
        perform audit(new.shop_id, null, 'token-made', new.label);
    elsif new.revoked_at is not null and old.revoked_at is null then
        perform audit(new.shop_id, null, 'token-ended', new.label);
    end if;
    return null;
end $$;
create trigger token_is_audited after insert or update of revoked_at on api_token for each row execute function token_is_audited();

create function shop_is_audited() returns trigger language plpgsql as $$
begin
    if (new.settings, new.name, new.time_zone, new.unit) is distinct from (old.settings, old.name, old.time_zone, old.unit) then
        perform audit(new.id, null, 'settings-changed', new.name);
    end if;
    return null;
end $$;
create trigger shop_is_audited after update on shop for each row when (new.settings is distinct from old.settings or new.name <> old.name or new.time_zone <> old.time_zone or new.unit <> old.unit) execute function shop_is_audited();

create function verdict_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, new.by_person, 'verdict-signed', audit_job(new.job_id) || case when new.agrees then '' else ', not as Zandrik says' end);
    return null;
end $$;
create trigger verdict_is_audited after insert on verdict for each row execute function verdict_is_audited();

create function reopening_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, new.by_person, 'verdict-reopened', audit_job(new.job_id) || ': ' || new.why);
    return null;
end $$;
create trigger reopening_is_audited after insert on verdict_reopening for each row execute function reopening_is_audited();

create function job_is_audited() returns trigger language plpgsql as $$
begin
    if new.closed_at is not null and old.closed_at is null then
        perform audit(new.shop_id, null, 'job-closed', 'job ' || new.number);
    elsif new.closed_at is null and old.closed_at is not null then
        perform audit(new.shop_id, null, 'job-opened-again', 'job ' || new.number);
    end if;
    if new.withdrawn_at is not null and old.withdrawn_at is null then
        perform audit(new.shop_id, null, 'job-withdrawn', 'job ' || new.number);
    end if;
    return null;
end $$;
create trigger job_is_audited after update of closed_at, withdrawn_at on job for each row execute function job_is_audited();

create function photo_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, null, 'photo-taken-away', audit_job(new.job_id) || ', plug ' || new.cylinder);
    return null;
end $$;
create trigger photo_is_audited after update of removed_at on plug_photo for each row when (new.removed_at is not null and old.removed_at is null) execute function photo_is_audited();
