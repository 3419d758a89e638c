"""Readings are thinned and go only through one function of the tables' owner, which records what it took.

The function knows the rules itself: never sooner than a kitchen decided, and of what is thinned a reading a minute stays,
and the lowest and highest of each ten minutes; what a person typed stays as it is.
"""

import django.db.models.deletion
from django.db import migrations, models

FORWARD = """
CREATE FUNCTION ember_retire_readings(month timestamptz) RETURNS SETOF book_retirement LANGUAGE plpgsql
  SET timezone = 'UTC' SET lock_timeout = '5s' SET work_mem = '64MB' AS $$
DECLARE
  opens timestamptz := date_trunc('month', month);
  closes timestamptz := date_trunc('month', month) + interval '1 month';
  part text := 'line_reading_' || to_char(month, 'YYYY_MM');
  first bigint := (SELECT coalesce(max(id), 0) FROM book_retirement);
  k record;
  began timestamptz;
  cut timestamptz;
  gone bigint;
BEGIN
  IF to_regclass(part) IS NULL OR closes > now() THEN RETURN; END IF;
  PERFORM set_config('ember.retiring', 'on', true);
  IF closes < now() - interval '6 months' AND NOT EXISTS (
    SELECT 1 FROM accounts_kitchen a
    WHERE (a.readings_kept_months IS NULL OR closes > now() - make_interval(months => a.readings_kept_months))
      AND EXISTS (SELECT 1 FROM line_reading r WHERE r.kitchen_id = a.id AND r.at >= opens AND r.at < closes)
  ) THEN
    INSERT INTO book_retirement (kitchen_id, what, since, until, count, at, role)
    SELECT r.kitchen_id, 'dropped', opens, closes, count(*), now(), session_user
    FROM line_reading r WHERE r.at >= opens AND r.at < closes GROUP BY r.kitchen_id;
    EXECUTE format('DROP TABLE %I', part);
  ELSE
    FOR k IN
      SELECT id, readings_kept_months AS kept, readings_thinned_days AS thinned FROM accounts_kitchen
      WHERE readings_kept_months IS NOT NULL OR readings_thinned_days IS NOT NULL ORDER BY id
    LOOP
      cut := least(closes, now() - make_interval(months => k.kept));
      IF k.kept IS NOT NULL AND cut > opens THEN
        DELETE FROM line_reading r WHERE r.kitchen_id = k.id AND r.at >= opens AND r.at < cut;
        GET DIAGNOSTICS gone = ROW_COUNT;
        IF gone > 0 THEN
          INSERT INTO book_retirement (kitchen_id, what, since, until, count, at, role)
          VALUES (k.id, 'deleted', opens, cut, gone, now(), session_user);
        END IF;
      END IF;
      began := coalesce((SELECT max(t.until) FROM book_retirement t WHERE t.kitchen_id = k.id AND t.what = 'thinned'
                         AND t.since >= opens AND t.until <= closes), opens);
      cut := least(closes, date_trunc('day', now() - make_interval(days => k.thinned)));
      IF k.thinned IS NOT NULL AND cut > began THEN
        WITH ranked AS (
          SELECT r.id, r.at,
            row_number() OVER (PARTITION BY r.probe_id, r.cook_id, date_bin('1 minute', r.at, 'epoch')
                               ORDER BY r.at, r.id) AS of_minute,
            row_number() OVER (PARTITION BY r.probe_id, r.cook_id, date_bin('10 minutes', r.at, 'epoch')
                               ORDER BY r.celsius, r.at, r.id) AS from_low,
            row_number() OVER (PARTITION BY r.probe_id, r.cook_id, date_bin('10 minutes', r.at, 'epoch')
                               ORDER BY r.celsius DESC, r.at, r.id) AS from_high
          FROM line_reading r WHERE r.kitchen_id = k.id AND r.at >= began AND r.at < cut AND NOT r.by_hand
        )
        DELETE FROM line_reading r USING ranked x
        WHERE r.kitchen_id = k.id AND r.at >= began AND r.at < cut AND r.at = x.at AND r.id = x.id
          AND x.of_minute > 1 AND x.from_low > 1 AND x.from_high > 1;
        GET DIAGNOSTICS gone = ROW_COUNT;
        INSERT INTO book_retirement (kitchen_id, what, since, until, count, at, role)
        VALUES (k.id, 'thinned', began, cut, gone, now(), session_user);
      END IF;
    END LOOP;
  END IF;
  PERFORM set_config('ember.retiring', 'off', true);
  RETURN QUERY SELECT * FROM book_retirement t WHERE t.id > first ORDER BY t.id;
END $$;
REVOKE ALL ON FUNCTION ember_retire_readings(timestamptz) FROM PUBLIC;
CREATE TRIGGER book_retirement_stays BEFORE UPDATE OR DELETE ON book_retirement
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER book_retirement_whole BEFORE TRUNCATE ON book_retirement
  FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();
"""
BACKWARD = "DROP FUNCTION ember_retire_readings(timestamptz);"


class Migration(migrations.Migration):
    dependencies = [
        ("accounts", "0010_readings_thinned"), ("book", "0007_anchors"), ("line", "0013_readings_by_month"),
    ]  # fmt: skip

    operations = [
        migrations.CreateModel(
            name="Retirement",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "what",
                    models.CharField(
                        choices=[("thinned", "Thinned"), ("deleted", "Deleted"), ("dropped", "Dropped")], max_length=10
                    ),
                ),
                ("since", models.DateTimeField()),
                ("until", models.DateTimeField()),
                ("count", models.PositiveBigIntegerField()),
                ("at", models.DateTimeField()),
                ("role", models.CharField(max_length=63)),
                (
                    "kitchen",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="accounts.kitchen"
                    ),
                ),
            ],
            options={
                "ordering": ["kitchen", "id"],
                "indexes": [models.Index(fields=["kitchen", "what", "until"], name="retirement_of_a_month")],
            },
        ),
        migrations.RunSQL(FORWARD, BACKWARD),
    ]
