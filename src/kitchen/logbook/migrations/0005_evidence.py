"""What a signature covers besides the record; and a copy of the readings, which stands."""

import django.db.models.deletion
from django.db import migrations, models


STANDS = """
CREATE TRIGGER logbook_signedreadings_stays BEFORE UPDATE OR DELETE ON logbook_signedreadings
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER logbook_signedreadings_whole BEFORE TRUNCATE ON logbook_signedreadings
  FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();
"""


class Migration(migrations.Migration):

    dependencies = [
        ('logbook', '0004_who_confirmed_how'),
    ]

    operations = [
        migrations.AddField(
            model_name='signoff',
            name='evidence',
            field=models.JSONField(blank=True, default=dict),
        ),
        migrations.CreateModel(
            name='SignedReadings',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('packed', models.BinaryField()),
                ('sign_off', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='readings', to='logbook.signoff')),
            ],
        ),
        migrations.RunSQL(STANDS, migrations.RunSQL.noop),
    ]
