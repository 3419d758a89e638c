"""Photographs of cut faces and what was measured on them stand, linked into their kitchen's chain."""

from django.db import migrations

TABLES = ("faces_facephoto", "faces_facemeasure", "faces_faceruler", "faces_faceremoval")
MAKE = "".join(
    f"""
CREATE TRIGGER {table}_stays BEFORE UPDATE OR DELETE ON {table}
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER {table}_whole BEFORE TRUNCATE ON {table}
  FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER {table}_chained AFTER INSERT ON {table} FOR EACH ROW EXECUTE FUNCTION ember_chain('kitchen');
"""
    for table in TABLES
)
DROP = "".join(
    f"DROP TRIGGER {table}_{name} ON {table};\n" for table in TABLES for name in ("stays", "whole", "chained")
)


class Migration(migrations.Migration):
    dependencies = [("book", "0008_retired_readings"), ("faces", "0001_faces")]
    operations = [migrations.RunSQL(MAKE, DROP)]
