-- Beside the figure as it was read stands the pressure in Pa, gauge, as Core works it out when the row is written: what
-- compares readings over the years need not know the units of each. And who read it: a person, or an instrument by its
-- name with what it recorded; by_person stays whoever took the reading.
alter table reading add column pressure_pa double precision;
alter table reading add column instrument text;
alter table reading add column trace bytea;
alter table reading add constraint reading_trace_is_of_an_instrument check (trace is null or instrument is not null);
alter table reading alter column trace set storage external;

-- The rows from before, by the factors Core uses. Nothing that was written is changed: the column is new.
alter table reading disable trigger reading_is_append_only;
update reading r set pressure_pa =
    coalesce((r.body -> 'asRead' ->> 'value')::double precision, (r.body ->> 'value')::double precision, (r.body ->> 'held')::double precision)
    * case coalesce(r.body -> 'asRead' ->> 'unit', t.body ->> 'unit', j.record -> 'engine' -> 'spec' ->> 'unit', 'psi')
          when 'psi' then 6894.757293168361 when 'bar' then 100000 when 'kPa' then 1000 else 98066.5 end
from test t join job j on j.id = t.job_id
where t.id = r.test_id and t.kind in ('compression-dry', 'compression-wet', 'leak-down') and coalesce(r.body ->> 'value', r.body ->> 'held') is not null;
alter table reading enable trigger reading_is_append_only;
