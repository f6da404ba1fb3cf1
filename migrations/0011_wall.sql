-- How many rules of the verdict are broken, open, held: counted when it is read, so that a wall need not open every verdict.
alter table submissions add column rules integer[] not null default '{0,0,0}';
update submissions s set rules = array[
    (select count(*) from jsonb_array_elements(s.verdict->'findings') f where f->>'outcome' = 'fault'),
    (select count(*) from jsonb_array_elements(s.verdict->'findings') f where f->>'outcome' = 'unsure'),
    (select count(*) from jsonb_array_elements(s.verdict->'findings') f where f->>'outcome' = 'holds')]
where s.verdict is not null;
create index notices_old on notices (created_at);
