"""The tally across commits: transactions that end out of order, snapshots, long work, and what is served meanwhile."""

from unittest import mock

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import TransactionTestCase
from django.utils import timezone

from binsort.catalog.models import Product
from binsort.changes import facets as facet_changes
from binsort.changes.catalogue import replace_catalogue
from binsort.core.facets.query import Query
from binsort.racks.setup import the_setup
from binsort.tally import activity, current, feed, snapshot_job, tasks
from binsort.tally.models import Change, Horizon, Part, Snapshot, Work, Writing
from tests.connections import another_connection
from tests.pages.test_tally import BRAND, LINES, counts


class CommittedTests(TransactionTestCase):
    def setUp(self):
        """Load eight products of two brands and forget what an earlier test knew, jobs and workers included."""
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_events; DELETE FROM procrastinate_jobs; DELETE FROM procrastinate_workers")
        replace_catalogue(LINES)
        facet_changes.add_facet(BRAND, rack="side", actor=None)
        current.forget()

    def tearDown(self):
        """Leave nothing behind for the next test."""
        current.forget()

    def a_worker_lives(self):
        """Have the database believe that a worker is there."""
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO procrastinate_workers DEFAULT VALUES")

    def test_transactions_that_end_out_of_order(self):
        """One that began first and ends last is in the first answer after its end, and in none before."""
        self.assertEqual(counts(), {"b0": 4, "b1": 4})
        with another_connection() as early:
            early.execute("UPDATE catalog_product SET brand = 'B5' WHERE identity = 'P1'")
            Product.objects.filter(identity="P2").update(brand="B6")
            self.assertEqual(counts(), {"b0": 3, "b1": 4, "b6": 1})
            snapshot_job.make_snapshot()
            early.commit()
            self.assertEqual(counts(), {"b0": 3, "b1": 3, "b5": 1, "b6": 1})
            current.forget()  # the snapshot was made before that end, and does not hide it
            self.assertEqual(counts(), {"b0": 3, "b1": 3, "b5": 1, "b6": 1})
            early.execute("UPDATE catalog_product SET brand = 'B7'")
            early.rollback()
        with self.assertNumQueries(1):
            current.current()

    def test_a_process_starts_from_the_snapshot(self):
        """It reads the snapshot and what changed since, never every row; a category that is renamed changes its products."""
        snapshot_job.make_snapshot()
        Product.objects.filter(identity="P1").delete()
        replaced = Product.objects.get(identity="P2").categories.first()
        replaced.name = "Renamed"
        replaced.save()
        with mock.patch.object(current, "built", side_effect=AssertionError("every row was read")):
            self.assertEqual(counts(), {"b0": 4, "b1": 3})
            self.assertTrue(current.current().index.has_category(("a", "renamed")))
        self.assertEqual(snapshot_job.make_snapshot().products, 7)
        self.assertEqual(Snapshot.objects.count(), 1)

    def test_an_unreadable_snapshot_does_no_harm(self):
        """Where its bytes are broken, or were written in another cluster, every row is read."""
        snapshot_job.make_snapshot()
        Part.objects.update(data=b"broken")
        self.assertEqual(counts(), {"b0": 4, "b1": 4})
        Horizon.objects.update(cluster="restored elsewhere")
        current.forget()
        self.assertEqual(counts(), {"b0": 4, "b1": 4})
        self.assertFalse(Snapshot.objects.exists() or Change.objects.exists())

    def test_changes_are_forgotten_only_when_covered(self):
        """Old change rows go with a snapshot that has them; a process that lacks them starts from it."""
        self.assertEqual(counts(), {"b0": 4, "b1": 4})
        held = current._held
        Product.objects.filter(identity="P1").update(brand="B9")
        Writing.objects.update(at=timezone.now() - timezone.timedelta(hours=2))
        self.assertTrue(Change.objects.exists())
        snapshot_job.make_snapshot()
        self.assertFalse(Change.objects.exists() or Writing.objects.exists())
        self.assertFalse(feed.news(held.position).complete)
        self.assertEqual(counts(), {"b0": 4, "b1": 3, "b9": 1})
        self.assertFalse(snapshot_job.is_snapshot_due())

    def test_the_first_count_of_a_big_catalogue(self):
        """Pages say that it is being counted, the job does it, then they are there; without a worker nobody waits for one."""
        get_user_model().objects.create_user("owner", password="a-long-password", is_staff=True)
        self.client.force_login(get_user_model().objects.get())
        with mock.patch.object(current, "INLINE", 5):
            self.a_worker_lives()
            for address in ("/shop/", "/racks/"):
                page = self.client.get(address)
                self.assertContains(page, "comes by itself", status_code=503)
                self.assertEqual(page["Refresh"], "3")
            self.assertEqual(self.jobs(), 1)
            tasks.write_snapshot()
            self.assertContains(self.client.get("/shop/"), "P8")
            self.assertContains(self.client.get("/activity/"), "8 products")

    def test_old_counts_are_served_until_the_new_are_ready(self):
        """Very many changes at once are counted in the background; the page says so, and only then."""
        get_user_model().objects.create_user("owner", password="a-long-password", is_staff=True)
        self.client.force_login(get_user_model().objects.get())
        self.assertEqual(counts(), {"b0": 4, "b1": 4})
        self.a_worker_lives()
        with mock.patch.object(current, "INLINE", 5):
            Product.objects.update(brand="B3")
            self.assertEqual(counts(), {"b0": 4, "b1": 4})
            self.assertContains(self.client.get("/racks/"), "the counts of before")
            tasks.write_snapshot()
            self.assertEqual(counts(), {"b3": 8})
            self.assertNotContains(self.client.get("/racks/"), "the counts of before")

    def test_work_can_be_cancelled(self):
        """It stops where it is, says so, and leaves the snapshot of before; what has ended cannot be cancelled."""
        first = snapshot_job.make_snapshot()
        get_user_model().objects.create_user("owner", password="a-long-password", is_staff=True)
        self.client.force_login(get_user_model().objects.get())
        Product.objects.update(brand="B4")

        def ask(progress, found=current.built):
            self.client.post(f"/activity/{progress.work.pk}/cancel/")
            return found(progress)

        with mock.patch.object(current, "built", side_effect=ask):
            tasks.write_snapshot()
        work = Work.objects.first()
        self.assertEqual((work.state, work.ended is None), (Work.State.STOPPED, False))
        self.assertEqual(Snapshot.objects.get(), first)
        self.assertContains(self.client.get("/activity/"), "Cancelled")
        page = self.client.post(f"/activity/{work.pk}/cancel/", follow=True)
        self.assertContains(page, "ended already")
        self.assertEqual(counts(), {"b4": 8})

    def test_what_was_cancelled_rests(self):
        """It is not begun again by itself, by a minute's job or by a page, until ten minutes are over or somebody wants it."""
        get_user_model().objects.create_user("owner", password="a-long-password", is_staff=True)
        self.client.force_login(get_user_model().objects.get())
        self.a_worker_lives()
        stopped = Work.objects.create(what=activity.COUNTING, state=Work.State.STOPPED, asked_to_stop=True, ended=timezone.now())
        with mock.patch.object(current, "INLINE", 5):
            self.assertContains(self.client.get("/racks/"), "It was cancelled", status_code=503)
            self.assertEqual((self.jobs(), snapshot_job.is_snapshot_due()), (0, False))
            self.assertContains(self.client.get("/activity/"), "Begin again now")
            self.client.post("/activity/again/")
            self.assertEqual((self.jobs(), snapshot_job.is_snapshot_due()), (1, True))
        stopped.asked_to_stop, stopped.ended = True, timezone.now() - timezone.timedelta(minutes=11)
        stopped.save()
        self.assertTrue(snapshot_job.is_snapshot_due())

    def jobs(self):
        """Return how many snapshots are asked for."""
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'tally.write_snapshot'")
            return cursor.fetchone()[0]

    def test_work_whose_process_died(self):
        """It is marked as such; a failure keeps its reason."""
        with self.assertRaises(ZeroDivisionError), activity.work("Dividing"):
            raise ZeroDivisionError("by nothing")
        gone = Work.objects.create(
            what="Counting", state=Work.State.RUNNING, started=timezone.now(), moved=timezone.now() - timezone.timedelta(minutes=5)
        )
        found = {line.what: (line.state, line.note) for line in activity.lines()}
        self.assertEqual(found["Dividing"], ("failed", "by nothing"))
        self.assertEqual(found["Counting"][0], "failed")
        self.assertEqual((activity.running(), activity.lines()[0].ended), (None, gone.moved))

    def test_answers_do_not_wait_for_a_writer(self):
        """An open transaction of a writer neither blocks answers nor other writers."""
        with another_connection() as slow:
            slow.execute("UPDATE catalog_product SET brand = 'B8' WHERE identity = 'P1'")
            Product.objects.filter(identity="P2").update(brand="B7")
            self.assertEqual(counts(), {"b0": 3, "b1": 4, "b7": 1})
            self.assertEqual(current.current().rack(the_setup().draft.facet_file.facets).answer(Query()).total, 8)
            slow.rollback()
