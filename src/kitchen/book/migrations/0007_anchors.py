"""Signed heads of chains, which stand."""

import django.db.models.deletion
from django.db import migrations, models


STANDS = """
CREATE TRIGGER book_anchor_stays BEFORE UPDATE OR DELETE ON book_anchor
  FOR EACH ROW EXECUTE FUNCTION ember_append_only();
CREATE TRIGGER book_anchor_whole BEFORE TRUNCATE ON book_anchor
  FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();
"""


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0009_date_language'),
        ('book', '0006_nothing_is_truncated'),
    ]

    operations = [
        migrations.CreateModel(
            name='Anchor',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveBigIntegerField()),
                ('digest', models.CharField(max_length=64)),
                ('at', models.CharField(max_length=40)),
                ('signature', models.CharField(max_length=100)),
                ('public_key', models.CharField(max_length=64)),
                ('kitchen', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.kitchen')),
            ],
            options={
                'ordering': ['kitchen', 'number'],
            },
        ),
        migrations.RunSQL(STANDS, migrations.RunSQL.noop),
    ]
