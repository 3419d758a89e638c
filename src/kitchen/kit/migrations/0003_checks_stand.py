"""What was found in a check is never changed."""

from django.db import migrations

STAND = """
CREATE FUNCTION kit_check_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'a check of the kit is never changed'; END $$;
CREATE TRIGGER kit_checks_append_only BEFORE UPDATE ON kit_kitcheck
    FOR EACH ROW EXECUTE FUNCTION kit_check_stands();
"""
FALL = """
DROP TRIGGER kit_checks_append_only ON kit_kitcheck;
DROP FUNCTION kit_check_stands();
"""


class Migration(migrations.Migration):
    dependencies = [("kit", "0002_equipment_and_checks")]
    operations = [migrations.RunSQL(STAND, FALL)]
