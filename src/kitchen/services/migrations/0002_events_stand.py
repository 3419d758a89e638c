"""What was tapped is never changed."""

from django.db import migrations

STAND = """
CREATE FUNCTION service_event_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'what happened in a service is never changed'; END $$;
CREATE TRIGGER service_events_append_only BEFORE UPDATE ON services_taskevent
    FOR EACH ROW EXECUTE FUNCTION service_event_stands();
"""
FALL = """
DROP TRIGGER service_events_append_only ON services_taskevent;
DROP FUNCTION service_event_stands();
"""


class Migration(migrations.Migration):
    dependencies = [("services", "0001_services")]
    operations = [migrations.RunSQL(STAND, FALL)]
