"""Readings are parted by month, so that old months can go as a whole and a night's work reads only its own.

A partitioned table cannot hold a key without its time: the key is (kitchen, time, id), which also answers for the time
within a kitchen. What tells a repeated reading from a new one is unique within each month, and held only as long as a
device may send it again; actions look one month further.
"""

from django.db import migrations, models

FORWARD = """
SET CONSTRAINTS ALL IMMEDIATE;
ALTER TABLE line_reading RENAME TO line_reading_as_one;
ALTER SEQUENCE line_reading_id_seq RENAME TO line_reading_as_one_id_seq;
CREATE TABLE line_reading (LIKE line_reading_as_one INCLUDING DEFAULTS INCLUDING CONSTRAINTS INCLUDING IDENTITY)
  PARTITION BY RANGE (at);
SELECT setval(pg_get_serial_sequence('line_reading', 'id'), (SELECT coalesce(max(id), 0) + 1 FROM line_reading_as_one),
              false);
ALTER TABLE line_reading
  ADD CONSTRAINT reading_of_a_kitchen PRIMARY KEY (kitchen_id, at, id),
  ADD CONSTRAINT reading_kitchen FOREIGN KEY (kitchen_id) REFERENCES accounts_kitchen DEFERRABLE INITIALLY DEFERRED,
  ADD CONSTRAINT reading_probe FOREIGN KEY (probe_id) REFERENCES kit_probe DEFERRABLE INITIALLY DEFERRED,
  ADD CONSTRAINT reading_cook FOREIGN KEY (cook_id) REFERENCES line_cook DEFERRABLE INITIALLY DEFERRED,
  ADD CONSTRAINT reading_entered_by FOREIGN KEY (entered_by_id) REFERENCES accounts_person
    DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX reading_of_probe ON line_reading (probe_id, at);
CREATE INDEX reading_of_cook ON line_reading (cook_id, at) WHERE cook_id IS NOT NULL;
CREATE TABLE line_reading_other PARTITION OF line_reading DEFAULT;
CREATE UNIQUE INDEX line_reading_other_once ON line_reading_other (probe_id, claimed_at, boot, number, celsius);

CREATE OR REPLACE FUNCTION ember_reading_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'DELETE' AND current_setting('ember.retiring', true) = 'on' THEN
    RETURN OLD;  -- within ember_reading_months or ember_retire_readings
  END IF;
  RAISE EXCEPTION 'rows of % are never changed or deleted', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;

CREATE FUNCTION ember_reading_months(since timestamptz, until timestamptz) RETURNS integer LANGUAGE plpgsql
  SET timezone = 'UTC' SET lock_timeout = '5s' AS $$
DECLARE
  month timestamptz;
  part text;
  made integer := 0;
BEGIN
  PERFORM set_config('ember.retiring', 'on', true);
  FOR month IN
    SELECT DISTINCT date_trunc('month', at) FROM line_reading_other
    UNION SELECT generate_series(date_trunc('month', since), until, interval '1 month')
  LOOP
    part := 'line_reading_' || to_char(month, 'YYYY_MM');
    IF to_regclass(part) IS NOT NULL THEN CONTINUE; END IF;
    EXECUTE format('CREATE TABLE %I (LIKE line_reading INCLUDING DEFAULTS INCLUDING CONSTRAINTS)', part);
    EXECUTE format('WITH moved AS (DELETE FROM line_reading_other WHERE at >= %L AND at < %L RETURNING *)'
                   ' INSERT INTO %I SELECT * FROM moved', month, month + interval '1 month', part);
    EXECUTE format('ALTER TABLE line_reading ATTACH PARTITION %I FOR VALUES FROM (%L) TO (%L)',
                   part, month, month + interval '1 month');
    EXECUTE format('CREATE TRIGGER %I BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only()',
                   part || '_whole', part);
    made := made + 1;
  END LOOP;
  -- A reading older than thirty days is refused, so nothing older can be a repeat.
  FOR part, month IN
    SELECT c.relname, to_timestamp(right(c.relname, 7), 'YYYY_MM')
    FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
    WHERE i.inhparent = 'line_reading'::regclass AND c.relname <> 'line_reading_other'
  LOOP
    IF month < date_trunc('month', now()) - interval '2 months' THEN
      EXECUTE format('DROP INDEX IF EXISTS %I', part || '_once');
    ELSIF to_regclass(part || '_once') IS NULL THEN
      EXECUTE format('CREATE UNIQUE INDEX %I ON %I (probe_id, claimed_at, boot, number, celsius)',
                     part || '_once', part);
    END IF;
  END LOOP;
  PERFORM set_config('ember.retiring', 'off', true);
  RETURN made;
END $$;
REVOKE ALL ON FUNCTION ember_reading_months(timestamptz, timestamptz) FROM PUBLIC;

SELECT ember_reading_months(
  greatest(least(min(at), now()), now() - interval '5 years'), now() + interval '3 months') FROM line_reading_as_one;
INSERT INTO line_reading OVERRIDING SYSTEM VALUE SELECT * FROM line_reading_as_one;
SET CONSTRAINTS ALL IMMEDIATE;
DROP TABLE line_reading_as_one;

CREATE TRIGGER line_reading_other_whole BEFORE TRUNCATE ON line_reading_other
  FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER line_reading_whole BEFORE TRUNCATE ON line_reading
  FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER readings_append_only BEFORE UPDATE OR DELETE ON line_reading
  FOR EACH ROW EXECUTE FUNCTION ember_reading_stands();
CREATE TRIGGER signed_cook_takes_no_readings BEFORE INSERT ON line_reading
  FOR EACH ROW WHEN (NEW.cook_id IS NOT NULL) EXECUTE FUNCTION ember_cook_is_open();
"""


class Migration(migrations.Migration):
    dependencies = [
        ("line", "0012_forecast_search"), ("logbook", "0003_old_readings_go"), ("book", "0006_nothing_is_truncated"),
        ("accounts", "0009_date_language"), ("kit", "0010_volume_and_heater"),
    ]  # fmt: skip

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[migrations.RunSQL(FORWARD)],
            state_operations=[
                migrations.RemoveConstraint("reading", "reading_once"),
                migrations.RemoveIndex("reading", "line_readin_probe_i_0ba4d7_idx"),
                migrations.RemoveIndex("reading", "line_readin_cook_id_5222f1_idx"),
                migrations.AddIndex("reading", models.Index(fields=["probe", "at"], name="reading_of_probe")),
                migrations.AddIndex(
                    "reading",
                    models.Index(fields=["cook", "at"], name="reading_of_cook", condition=~models.Q(cook=None)),
                ),
            ],
        )
    ]
