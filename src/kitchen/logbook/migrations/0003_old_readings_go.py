"""Readings still never change; those older than their kitchen keeps them may go, and only those."""

from django.db import migrations

FORWARD = """
CREATE FUNCTION ember_reading_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'DELETE' AND EXISTS (
    SELECT 1 FROM accounts_kitchen k WHERE k.id = OLD.kitchen_id AND k.readings_kept_months IS NOT NULL
      AND OLD.at < now() - make_interval(months => k.readings_kept_months)
  ) THEN
    RETURN OLD;
  END IF;
  RAISE EXCEPTION 'rows of % are never changed or deleted', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
DROP TRIGGER readings_append_only ON line_reading;
CREATE TRIGGER readings_append_only BEFORE UPDATE OR DELETE ON line_reading
  FOR EACH ROW EXECUTE FUNCTION ember_reading_stands();
"""
BACKWARD = """
DROP TRIGGER readings_append_only ON line_reading;
CREATE TRIGGER readings_append_only BEFORE UPDATE OR DELETE ON line_reading
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
DROP FUNCTION ember_reading_stands();
"""


class Migration(migrations.Migration):
    """Of the trigger."""

    dependencies = [("logbook", "0002_records_stand"), ("accounts", "0004_readings_kept")]

    operations = [migrations.RunSQL(FORWARD, BACKWARD)]
