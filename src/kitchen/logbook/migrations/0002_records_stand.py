"""The database itself refuses to change what was written down: events, readings and signatures are append-only, and a
signed cook is frozen."""

from django.db import migrations

FORWARD = """
CREATE FUNCTION ember_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'rows of % are never changed or deleted', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;

CREATE TRIGGER events_append_only BEFORE UPDATE OR DELETE ON line_cookevent
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER readings_append_only BEFORE UPDATE OR DELETE ON line_reading
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER signatures_append_only BEFORE UPDATE OR DELETE ON logbook_signoff
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();

CREATE FUNCTION ember_cook_is_open() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  the_cook uuid;
BEGIN
  IF TG_TABLE_NAME = 'line_cook' THEN the_cook := OLD.id; ELSE the_cook := NEW.cook_id; END IF;
  IF the_cook IS NOT NULL AND EXISTS (SELECT 1 FROM logbook_signoff WHERE cook_id = the_cook) THEN
    RAISE EXCEPTION 'the record of this cook is signed' USING ERRCODE = 'restrict_violation';
  END IF;
  IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
  RETURN NEW;
END $$;

CREATE TRIGGER signed_cook_takes_no_events BEFORE INSERT ON line_cookevent
  FOR EACH ROW EXECUTE FUNCTION ember_cook_is_open();
CREATE TRIGGER signed_cook_takes_no_readings BEFORE INSERT ON line_reading
  FOR EACH ROW WHEN (NEW.cook_id IS NOT NULL) EXECUTE FUNCTION ember_cook_is_open();
CREATE TRIGGER signed_cook_takes_no_probe BEFORE INSERT OR UPDATE ON line_probeuse
  FOR EACH ROW EXECUTE FUNCTION ember_cook_is_open();
CREATE TRIGGER signed_cook_stays BEFORE UPDATE OR DELETE ON line_cook
  FOR EACH ROW EXECUTE FUNCTION ember_cook_is_open();
"""

BACKWARD = """
DROP TRIGGER signed_cook_stays ON line_cook;
DROP TRIGGER signed_cook_takes_no_probe ON line_probeuse;
DROP TRIGGER signed_cook_takes_no_readings ON line_reading;
DROP TRIGGER signed_cook_takes_no_events ON line_cookevent;
DROP FUNCTION ember_cook_is_open();
DROP TRIGGER signatures_append_only ON logbook_signoff;
DROP TRIGGER readings_append_only ON line_reading;
DROP TRIGGER events_append_only ON line_cookevent;
DROP FUNCTION ember_append_only();
"""


class Migration(migrations.Migration):
    dependencies = [("logbook", "0001_initial"), ("line", "0001_initial")]

    operations = [migrations.RunSQL(FORWARD, BACKWARD)]
