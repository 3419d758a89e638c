"""A planning job's progress by its name."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("services", "0003_planning_jobs")]

    operations = [migrations.RenameField("planningjob", "said", "progress")]
