"""Let the database itself move the catalogue's version on at every write, in the writer's transaction."""

from django.db import migrations

TABLES = ("catalog_product", "catalog_variant", "catalog_placement", "catalog_category")

FORWARDS = """
CREATE SEQUENCE tally_catalogue_version;
CREATE FUNCTION tally_catalogue_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO tally_catalogueversion (id, number) VALUES (1, nextval('tally_catalogue_version'))
    ON CONFLICT (id) DO UPDATE SET number = nextval('tally_catalogue_version');
    RETURN NULL;
END $$;
""" + "".join(
    f"""
CREATE TRIGGER tally_catalogue_changed AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {table}
FOR EACH STATEMENT EXECUTE FUNCTION tally_catalogue_changed();
"""
    for table in TABLES
)

BACKWARDS = (
    "".join(f"DROP TRIGGER tally_catalogue_changed ON {table};" for table in TABLES)
    + "DROP FUNCTION tally_catalogue_changed(); DROP SEQUENCE tally_catalogue_version;"
)


class Migration(migrations.Migration):
    dependencies = [("tally", "0001_initial"), ("catalog", "0001_initial")]

    operations = [migrations.RunSQL(FORWARDS, BACKWARDS)]
