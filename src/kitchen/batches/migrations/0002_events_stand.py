"""What happened to a batch is never changed, nor when it left the heat."""

from django.db import migrations

STAND = """
CREATE FUNCTION batch_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'what happened to a batch is never changed'; END $$;
CREATE TRIGGER batch_events_append_only BEFORE UPDATE ON batches_batchevent
    FOR EACH ROW EXECUTE FUNCTION batch_stands();
CREATE TRIGGER batches_append_only BEFORE UPDATE ON batches_batch
    FOR EACH ROW EXECUTE FUNCTION batch_stands();
"""
FALL = """
DROP TRIGGER batches_append_only ON batches_batch;
DROP TRIGGER batch_events_append_only ON batches_batchevent;
DROP FUNCTION batch_stands();
"""


class Migration(migrations.Migration):
    dependencies = [("batches", "0001_batches")]
    operations = [migrations.RunSQL(STAND, FALL)]
