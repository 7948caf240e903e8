"""Change rows, snapshots and long work take the place of one number for the whole catalogue."""

import django.db.models.deletion
import django.db.models.functions.datetime
from django.db import migrations, models


# What kept one number for the whole catalogue before.
TABLES = ("catalog_product", "catalog_variant", "catalog_placement", "catalog_category")
DROP_VERSION = (
    "".join(f"DROP TRIGGER tally_catalogue_changed ON {table};" for table in TABLES)
    + "DROP FUNCTION tally_catalogue_changed(); DROP SEQUENCE tally_catalogue_version;"
)
MAKE_VERSION = """
CREATE SEQUENCE tally_catalogue_version;
CREATE FUNCTION tally_catalogue_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO tally_catalogueversion (id, number) VALUES (1, nextval('tally_catalogue_version'))
    ON CONFLICT (id) DO UPDATE SET number = nextval('tally_catalogue_version');
    RETURN NULL;
END $$;
""" + "".join(
    f"CREATE TRIGGER tally_catalogue_changed AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {table} "
    "FOR EACH STATEMENT EXECUTE FUNCTION tally_catalogue_changed();"
    for table in TABLES
)


class Migration(migrations.Migration):

    dependencies = [
        ('tally', '0002_follow_the_catalogue'),
    ]

    operations = [
        migrations.RunSQL(DROP_VERSION, MAKE_VERSION),
        migrations.CreateModel(
            name='Change',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('transaction', models.BigIntegerField()),
                ('product', models.BigIntegerField(null=True)),
            ],
        ),
        migrations.CreateModel(
            name='Horizon',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('transaction', models.BigIntegerField(default=0)),
                ('cluster', models.TextField()),
            ],
        ),
        migrations.CreateModel(
            name='Part',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('data', models.BinaryField()),
            ],
            options={
                'ordering': ('number',),
            },
        ),
        migrations.CreateModel(
            name='Snapshot',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.TextField()),
                ('products', models.PositiveIntegerField()),
                ('size', models.BigIntegerField()),
                ('at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
            ],
        ),
        migrations.CreateModel(
            name='Work',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.TextField()),
                ('state', models.TextField(choices=[('waiting', 'Waiting'), ('running', 'Running'), ('done', 'Done'), ('stopped', 'Cancelled'), ('failed', 'Failed')], default='waiting')),
                ('done', models.PositiveIntegerField(default=0)),
                ('total', models.PositiveIntegerField(default=0)),
                ('unit', models.TextField(default='products')),
                ('asked_to_stop', models.BooleanField(default=False)),
                ('created', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('started', models.DateTimeField(null=True)),
                ('moved', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
                ('ended', models.DateTimeField(null=True)),
                ('note', models.TextField(blank=True)),
            ],
            options={
                'ordering': ('-id',),
            },
        ),
        migrations.CreateModel(
            name='Writing',
            fields=[
                ('transaction', models.BigIntegerField(primary_key=True, serialize=False)),
                ('at', models.DateTimeField(db_default=django.db.models.functions.datetime.Now())),
            ],
        ),
        migrations.DeleteModel(
            name='CatalogueVersion',
        ),
        migrations.AddIndex(
            model_name='change',
            index=models.Index(fields=['transaction', 'id'], name='change_by_transaction'),
        ),
        migrations.AddConstraint(
            model_name='horizon',
            constraint=models.CheckConstraint(condition=models.Q(('id', 1)), name='one_horizon'),
        ),
        migrations.AddField(
            model_name='part',
            name='snapshot',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='parts', to='tally.snapshot'),
        ),
        migrations.AddConstraint(
            model_name='part',
            constraint=models.UniqueConstraint(fields=('snapshot', 'number'), name='part_once_in_snapshot'),
        ),
    ]
