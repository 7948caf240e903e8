"""Let the database itself note, in the writer's transaction, which products every write to the catalogue changed."""

from django.db import migrations

# Table, what names the product in one of its rows.
TABLES = {"catalog_product": "id", "catalog_variant": "product_id", "catalog_placement": "product_id"}

NOTE = """
CREATE FUNCTION tally_note_transaction() RETURNS bigint LANGUAGE plpgsql AS $$
DECLARE here bigint := pg_current_xact_id()::text::bigint;
BEGIN
    INSERT INTO tally_writing (transaction) VALUES (here) ON CONFLICT DO NOTHING;
    RETURN here;
END $$;

CREATE FUNCTION tally_note_all() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO tally_change (transaction, product) VALUES (tally_note_transaction(), NULL);
    RETURN NULL;
END $$;
"""

OF_TABLE = """
CREATE FUNCTION tally_note_{table}() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE here bigint := tally_note_transaction();
BEGIN
    IF TG_OP = 'INSERT' THEN
        INSERT INTO tally_change (transaction, product) SELECT DISTINCT here, {product} FROM come;
    ELSIF TG_OP = 'DELETE' THEN
        INSERT INTO tally_change (transaction, product) SELECT DISTINCT here, {product} FROM gone;
    ELSE
        INSERT INTO tally_change (transaction, product)
        SELECT here, {product} FROM (SELECT * FROM come EXCEPT SELECT * FROM gone) AS changed
        UNION SELECT here, {product} FROM (SELECT * FROM gone EXCEPT SELECT * FROM come) AS changed;
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER tally_insert AFTER INSERT ON {table} REFERENCING NEW TABLE AS come
FOR EACH STATEMENT EXECUTE FUNCTION tally_note_{table}();
CREATE TRIGGER tally_update AFTER UPDATE ON {table} REFERENCING OLD TABLE AS gone NEW TABLE AS come
FOR EACH STATEMENT EXECUTE FUNCTION tally_note_{table}();
CREATE TRIGGER tally_delete AFTER DELETE ON {table} REFERENCING OLD TABLE AS gone
FOR EACH STATEMENT EXECUTE FUNCTION tally_note_{table}();
CREATE TRIGGER tally_truncate AFTER TRUNCATE ON {table} FOR EACH STATEMENT EXECUTE FUNCTION tally_note_all();
"""

# A category that gets another name or another parent changes every product in it or below it. One that comes has no
# products yet, and with one that goes its placements go.
OF_CATEGORIES = """
CREATE FUNCTION tally_note_catalog_category() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE here bigint := tally_note_transaction();
BEGIN
    INSERT INTO tally_change (transaction, product)
    WITH RECURSIVE below (id) AS (
        SELECT come.id FROM come JOIN gone USING (id)
        WHERE come.name IS DISTINCT FROM gone.name OR come.parent_id IS DISTINCT FROM gone.parent_id
        UNION
        SELECT child.id FROM catalog_category AS child JOIN below ON child.parent_id = below.id
    )
    SELECT DISTINCT here, product_id FROM catalog_placement JOIN below ON category_id = below.id;
    RETURN NULL;
END $$;
CREATE TRIGGER tally_update AFTER UPDATE ON catalog_category REFERENCING OLD TABLE AS gone NEW TABLE AS come
FOR EACH STATEMENT EXECUTE FUNCTION tally_note_catalog_category();
CREATE TRIGGER tally_truncate AFTER TRUNCATE ON catalog_category FOR EACH STATEMENT EXECUTE FUNCTION tally_note_all();
"""

FORWARDS = NOTE + "".join(OF_TABLE.format(table=table, product=product) for table, product in TABLES.items()) + OF_CATEGORIES
BACKWARDS = (
    "".join(
        f"DROP TRIGGER tally_insert ON {table}; DROP TRIGGER tally_update ON {table}; DROP TRIGGER tally_delete ON {table};"
        f"DROP TRIGGER tally_truncate ON {table}; DROP FUNCTION tally_note_{table}();"
        for table in TABLES
    )
    + "DROP TRIGGER tally_update ON catalog_category; DROP TRIGGER tally_truncate ON catalog_category;"
    + "DROP FUNCTION tally_note_catalog_category(); DROP FUNCTION tally_note_all(); DROP FUNCTION tally_note_transaction();"
)

# The bytes are as small as they get already.
KEEP_AS_IS = "ALTER TABLE tally_part ALTER COLUMN data SET STORAGE EXTERNAL;"


class Migration(migrations.Migration):
    dependencies = [("tally", "0003_models"), ("catalog", "0001_initial")]

    operations = [
        migrations.RunSQL(KEEP_AS_IS, migrations.RunSQL.noop),
        migrations.RunSQL(FORWARDS, BACKWARDS),
    ]
