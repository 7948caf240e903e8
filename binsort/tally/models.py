"""What the database knows of the catalogue's changes, of snapshots of its index, and of long work.

Triggers write :class:`Writing` and :class:`Change` in the writer's own transaction, whoever writes and however. A
transaction is known by PostgreSQL's 64-bit number of it; numbers are given out at the first write and transactions
end in another order, which is why readers never ask for "all since number n" (see ``feed.py``).
"""

from django.db import models
from django.db.models.functions import Now


class Writing(models.Model):
    """A transaction that changed the catalogue."""

    transaction = models.BigIntegerField(primary_key=True)
    at = models.DateTimeField(db_default=Now())

    def __str__(self) -> str:
        return f"transaction {self.transaction}"


class Change(models.Model):
    """A product that a transaction changed. Without a product: all of them."""

    transaction = models.BigIntegerField()
    product = models.BigIntegerField(null=True)  # a primary key; the product may be gone

    class Meta:
        indexes = (models.Index(fields=("transaction", "id"), name="change_by_transaction"),)

    def __str__(self) -> str:
        return f"product {self.product} in transaction {self.transaction}"


class Horizon(models.Model):
    """One row: how far changes have been forgotten, and in which database cluster all these numbers were given out."""

    transaction = models.BigIntegerField(default=0)  # changes of earlier ones are in every snapshot that is kept
    cluster = models.TextField()

    class Meta:
        constraints = (models.CheckConstraint(condition=models.Q(id=1), name="one_horizon"),)

    def __str__(self) -> str:
        return f"from transaction {self.transaction}"


class Snapshot(models.Model):
    """The facts of the catalogue at one moment, ready to be loaded."""

    position = models.TextField()  # PostgreSQL's snapshot: which transactions are in it
    products = models.PositiveIntegerField()
    size = models.BigIntegerField()  # bytes
    at = models.DateTimeField(db_default=Now())

    def __str__(self) -> str:
        return f"{self.products:,} products at {self.at:%H:%M:%S}"


class Part(models.Model):
    """A piece of a snapshot's bytes."""

    snapshot = models.ForeignKey(Snapshot, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("snapshot", "number"), name="part_once_in_snapshot"),)

    def __str__(self) -> str:
        return f"part {self.number} of snapshot {self.snapshot_id}"


class Work(models.Model):
    """A piece of long work: how far it is, and whether somebody wants it to stop."""

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        RUNNING = "running", "Running"
        DONE = "done", "Done"
        STOPPED = "stopped", "Cancelled"
        FAILED = "failed", "Failed"

    what = models.TextField()
    state = models.TextField(choices=State, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    unit = models.TextField(default="products")
    asked_to_stop = models.BooleanField(default=False)
    created = models.DateTimeField(db_default=Now())
    started = models.DateTimeField(null=True)
    moved = models.DateTimeField(db_default=Now())  # when it last said how far it is
    ended = models.DateTimeField(null=True)
    note = models.TextField(blank=True)
    task = models.TextField(blank=True)  # the job that does it again where it fails
    arguments = models.JSONField(default=dict, blank=True)  # of that job

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.what}, {self.state}"
