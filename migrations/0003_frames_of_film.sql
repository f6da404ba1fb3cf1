-- Frames grabbed from a film, and the tone curve a case's camera was found to have.
alter table frames add column film text;
alter table frames add column time_s double precision;
alter table cases add column calibration jsonb;
