"""Every record that stands is linked into its kitchen's chain by the database itself, whoever writes it."""

from django.db import migrations

CHAIN = """
CREATE FUNCTION ember_link(the_kitchen bigint, the_table text, the_row jsonb) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
  last_number bigint;
  last_digest text;
  written text;
BEGIN
  PERFORM pg_advisory_xact_lock(hashtext('ember chain'), the_kitchen::int);
  SELECT number, digest INTO last_number, last_digest FROM book_link
    WHERE kitchen_id = the_kitchen ORDER BY number DESC LIMIT 1;
  last_digest := coalesce(last_digest, repeat('0', 64));
  written := jsonb_build_object('table', the_table, 'row', the_row)::text;
  INSERT INTO book_link (kitchen_id, number, at, "table", row_key, payload, before, digest)
  VALUES (the_kitchen, coalesce(last_number, 0) + 1, clock_timestamp(), the_table, the_row->>'id', written, last_digest,
          encode(sha256(convert_to(last_digest || E'\\n' || written, 'UTF8')), 'hex'));
END $$;

CREATE FUNCTION ember_chain() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  the_kitchen bigint;
  the_row jsonb := to_jsonb(NEW);
BEGIN
  CASE TG_ARGV[0]
    WHEN 'kitchen' THEN the_kitchen := (the_row->>'kitchen_id')::bigint;
    WHEN 'cook' THEN
      SELECT kitchen_id INTO the_kitchen FROM line_cook WHERE id = (the_row->>'cook_id')::uuid;
    WHEN 'batch' THEN
      SELECT kitchen_id INTO the_kitchen FROM batches_batch WHERE id = (the_row->>'batch_id')::uuid;
    WHEN 'service' THEN
      SELECT kitchen_id INTO the_kitchen FROM services_service WHERE id = (the_row->>'service_id')::uuid;
    WHEN 'brine' THEN
      SELECT kitchen_id INTO the_kitchen FROM brines_brineplan WHERE id = (the_row->>'plan_id')::uuid;
  END CASE;
  PERFORM ember_link(the_kitchen, TG_TABLE_NAME, the_row);
  RETURN NULL;
END $$;

CREATE TRIGGER links_append_only BEFORE UPDATE OR DELETE ON book_link
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER entries_append_only BEFORE UPDATE OR DELETE ON book_entry
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
"""
FALL = """
DROP TRIGGER entries_append_only ON book_entry;
DROP TRIGGER links_append_only ON book_link;
DROP FUNCTION ember_chain();
DROP FUNCTION ember_link(bigint, text, jsonb);
"""
# Table, and how its kitchen is found.
CHAINED = (
    ("line_cookevent", "cook"), ("logbook_signoff", "cook"), ("batches_batch", "kitchen"),
    ("batches_batchevent", "batch"), ("services_taskevent", "service"), ("kit_kitcheck", "kitchen"),
    ("brines_confirmation", "brine"), ("book_entry", "kitchen"),
)  # fmt: skip


def triggers() -> tuple[str, str]:
    """The statements that set them, and those that take them back."""
    make = "".join(
        f"CREATE TRIGGER {table}_chained AFTER INSERT ON {table} FOR EACH ROW EXECUTE FUNCTION ember_chain('{how}');\n"
        for table, how in CHAINED
    )
    drop = "".join(f"DROP TRIGGER {table}_chained ON {table};\n" for table, _ in CHAINED)
    return make, drop


BEFORE_THE_BOOK = """
DO $$
DECLARE found record;
BEGIN
  FOR found IN
    SELECT k, t, r FROM (
      SELECT c.kitchen_id AS k, 'line_cookevent' AS t, to_jsonb(e) AS r, e.at AS w FROM line_cookevent e JOIN line_cook c ON c.id = e.cook_id
      UNION ALL SELECT c.kitchen_id, 'logbook_signoff', to_jsonb(s), s.at FROM logbook_signoff s JOIN line_cook c ON c.id = s.cook_id
      UNION ALL SELECT b.kitchen_id, 'batches_batch', to_jsonb(b), b.out_at FROM batches_batch b
      UNION ALL SELECT b.kitchen_id, 'batches_batchevent', to_jsonb(e), e.at FROM batches_batchevent e JOIN batches_batch b ON b.id = e.batch_id
      UNION ALL SELECT s.kitchen_id, 'services_taskevent', to_jsonb(e), e.at FROM services_taskevent e JOIN services_service s ON s.id = e.service_id
      UNION ALL SELECT c.kitchen_id, 'kit_kitcheck', to_jsonb(c), c.at FROM kit_kitcheck c
      UNION ALL SELECT p.kitchen_id, 'brines_confirmation', to_jsonb(f), f.at FROM brines_confirmation f JOIN brines_brineplan p ON p.id = f.plan_id
    ) AS rows ORDER BY w
  LOOP
    PERFORM ember_link(found.k, found.t, found.r);
  END LOOP;
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [
        ("book", "0001_book"), ("logbook", "0002_records_stand"), ("batches", "0003_press_portion_and_cook"),
        ("services", "0002_events_stand"), ("kit", "0005_rates"), ("brines", "0001_brines"), ("line", "0006_egg_cooks"),
    ]  # fmt: skip
    operations = [
        migrations.RunSQL(CHAIN, FALL),
        migrations.RunSQL(*triggers()),
        migrations.RunSQL(BEFORE_THE_BOOK, migrations.RunSQL.noop),
    ]
