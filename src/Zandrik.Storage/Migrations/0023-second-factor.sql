-- The second half of a sign-in: a secret that the person's phone has too, and codes on paper for the day it is lost. The
-- secret is sealed by the application's key ring; the paper's codes, which are shorter than a token, are kept slow to guess.
create table second_factor (
    person_id   int  primary key,
    shop_id     int  not null references shop,
    secret      text not null,
    -- Of the paper's codes.
    salt        bytea not null,
    made_at     timestamptz not null,
    -- The half minute whose code was taken last: no code is good twice.
    last_step   bigint not null,
    foreign key (shop_id, person_id) references person (shop_id, id)
);
create table recovery_code (
    person_id   int  not null references second_factor on delete cascade,
    shop_id     int  not null references shop,
    hash        bytea not null,
    used_at     timestamptz,
    primary key (person_id, hash)
);
alter table second_factor enable row level security;
alter table second_factor force row level security;
create policy own_shop on second_factor using (shop_id = current_shop()) with check (shop_id = current_shop());
alter table recovery_code enable row level security;
alter table recovery_code force row level security;
create policy own_shop on recovery_code using (shop_id = current_shop()) with check (shop_id = current_shop());
grant select, insert, update, delete on second_factor, recovery_code to $app$;

-- Whether whoever looks after the shop has to have one.
alter table shop add column foremen_need_code boolean not null default false;
grant update (foremen_need_code) on shop to $app$;

create function second_factor_is_audited() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' then
        perform audit(old.shop_id, null, 'second-factor-off', (select name from person where id = old.person_id));
    else
        perform audit(new.shop_id, null, 'second-factor-on', (select name from person where id = new.person_id));
    end if;
    return null;
end $$;
create trigger second_factor_is_audited after insert or delete or update of secret on second_factor for each row execute function second_factor_is_audited();

create function recovery_code_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.shop_id, new.person_id, 'recovery-code-used', (select name from person where id = new.person_id));
    return null;
end $$;
create trigger recovery_code_is_audited after update of used_at on recovery_code for each row when (new.used_at is not null and old.used_at is null) execute function recovery_code_is_audited();

create function code_rule_is_audited() returns trigger language plpgsql as $$
begin
    perform audit(new.id, null, 'settings-changed', case when new.foremen_need_code then 'foremen need a code' else 'foremen need no code' end);
    return null;
end $$;
create trigger code_rule_is_audited after update on shop for each row when (new.foremen_need_code <> old.foremen_need_code) execute function code_rule_is_audited();

-- Keys that were kept in the clear are sealed where they lie.
grant update (xml) on data_protection_key to $app$;
