"""What was kept before becomes each plan's first version, and versions are never changed."""

from django.db import migrations

STAND = """
CREATE FUNCTION plan_version_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'a version of a plan is never changed'; END $$;
CREATE TRIGGER plan_versions_append_only BEFORE UPDATE ON plans_planversion
    FOR EACH ROW EXECUTE FUNCTION plan_version_stands();
"""
FALL = """
DROP TRIGGER plan_versions_append_only ON plans_planversion;
DROP FUNCTION plan_version_stands();
"""


def first_versions(apps, schema_editor):
    """A first version of every plan."""
    plan_model, version_model = apps.get_model("plans", "Plan"), apps.get_model("plans", "PlanVersion")
    version_model.objects.bulk_create(
        version_model(
            plan=plan, number=1, name=plan.name, document=plan.document, changes=["New"], kept_by_id=plan.updated_by_id,
            kept_at=plan.updated_at,
        )
        for plan in plan_model.objects.all()
    )


class Migration(migrations.Migration):
    dependencies = [("plans", "0002_versions_and_tags")]
    operations = [
        migrations.RunPython(first_versions, migrations.RunPython.noop),
        migrations.RunSQL(STAND, FALL),
    ]
