"""Every table that is only added to refuses UPDATE, DELETE and TRUNCATE, whoever asks."""

from django.db import migrations

# Tables whose triggers let a row be deleted until now.
WITHOUT_DELETE = ("batches_batch", "batches_batchevent", "services_taskevent", "kit_kitcheck", "plans_planversion")
STANDING = (
    "line_cookevent", "line_reading", "logbook_signoff", *WITHOUT_DELETE, "brines_confirmation", "book_entry",
    "book_link",
)  # fmt: skip


def statements() -> tuple[str, str]:
    """What sets the triggers, and what takes them back."""
    make = [
        f"CREATE TRIGGER {table}_stays BEFORE DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION ember_append_only();"
        for table in WITHOUT_DELETE
    ]
    make.append(
        "CREATE TRIGGER brines_confirmation_stays BEFORE UPDATE OR DELETE ON brines_confirmation"
        " FOR EACH ROW EXECUTE FUNCTION ember_append_only();"
    )
    drop = [f"DROP TRIGGER {table}_stays ON {table};" for table in (*WITHOUT_DELETE, "brines_confirmation")]
    for table in STANDING:
        make.append(
            f"CREATE TRIGGER {table}_whole BEFORE TRUNCATE ON {table}"
            " FOR EACH STATEMENT EXECUTE FUNCTION ember_append_only();"
        )
        drop.append(f"DROP TRIGGER {table}_whole ON {table};")
    return "\n".join(make), "\n".join(drop)


class Migration(migrations.Migration):
    dependencies = [
        ("book", "0005_schedule"), ("logbook", "0004_who_confirmed_how"), ("batches", "0005_plain_words"),
        ("services", "0005_plain_words"), ("kit", "0010_volume_and_heater"), ("plans", "0003_versions_stand"),
        ("brines", "0003_asking"), ("line", "0012_forecast_search"),
    ]  # fmt: skip
    operations = [migrations.RunSQL(*statements())]
