"""Bringing in by the pages: from a file through its columns and its trial run to what was done, and back."""

from contextlib import suppress
from io import BytesIO
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase, override_settings
from django.utils import timezone
from openpyxl import Workbook
from procrastinate.contrib.django.models import ProcrastinateJob

from binsort.catalog.files import uploads
from binsort.catalog.models import Product, Revision, Shape, Upload
from binsort.catalog.store.product_rows import products_of
from binsort.changes import imports, tasks
from binsort.changes.catalogue import replace_catalogue
from binsort.core.values.numbers import exact
from binsort.tally.activity import Stopped
from binsort.tally.models import Work

from .test_revising import LINES, same, state

STOCK = "Item code;Description;Supplier;Price;Dia. (mm);Len;Web\nA;Horn cleat;Orrin;5,50;8;3;Y\nB;Fender;Orrin;POA;;;N\nE;Gaff;Hollin;12;10;4;Y\n"


@override_settings(STORAGES={"staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}})
class UploadCase(TestCase):
    """With three products and somebody signed in."""

    def setUp(self):
        """Three products and somebody signed in."""
        replace_catalogue(LINES)
        self.before = state()
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))

    def upload(self, content, name="stock-may.csv"):
        """Send a file; returns its page."""
        file = SimpleUploadedFile(name, content if isinstance(content, bytes) else content.encode())
        return self.client.post("/catalogue/bring-in/", {"file": file}, follow=True)

    def post(self, **data):
        """Send the form of the newest file."""
        return self.client.post(f"/catalogue/bring-in/{Upload.objects.first().pk}/", data, follow=True)

    def report(self):
        """What the newest file would do."""
        found = Upload.objects.first().report
        return [found[name] for name in ("new", "changed", "unchanged", "missing", "refused")]


class UploadTests(UploadCase):
    def test_from_the_file_to_the_catalogue_and_back(self):
        """Columns are recognised by header and by values; refused rows say why; what has no column stays; undone, all is as before."""
        page = self.upload(STOCK)
        meanings = [(column.header, column.meaning, column.unit) for column in page.context["page"].columns]
        self.assertEqual(meanings, [
            ("Item code", "identity", ""), ("Description", "name", ""), ("Supplier", "brand", ""), ("Price", "price", ""),
            ("Dia. (mm)", "attribute:Dia.", "mm"), ("Len", "attribute:Len", ""), ("Web", "visible", ""),
        ])  # fmt: skip
        self.assertEqual(self.report(), [1, 1, 0, 1, 1])
        for words in ("What does it measure?", "is no number", "POA", "Bring in 2 products", "CSV, semicolon, UTF-8"):
            self.assertContains(page, words)
        self.assertTrue(same(state(), self.before))
        refused = self.client.get(f"/catalogue/bring-in/{Upload.objects.first().pk}/refused/")
        self.assertEqual(
            refused.content.decode("utf-8-sig").splitlines(),
            ["Item code,Description,Supplier,Price,Dia. (mm),Len,Web", "B,Fender,Orrin,POA,,,N"],
        )
        self.post(**{"c:4:meaning": "attribute:", "c:5:unit": "m", "remember": "1"})
        done = self.post(**{"c:5:unit": "m", "bring": "1", "remember": "1"})
        self.assertContains(done, "1 new and 1 changed")
        found = products_of(["A"])["A"]
        self.assertEqual(([prop.name for prop in found.properties], found.offer.price), (["Colour", "Dia.", "Len"], exact("5.5")))
        self.assertEqual([prop.unit for prop in found.properties], [None, "mm", "m"])
        self.assertContains(self.client.get("/catalogue/bring-in/"), "stock-may.csv")
        self.client.post(f"/catalogue/changes/{Upload.objects.first().revision_id}/undo/")
        self.assertTrue(same(state(), self.before))
        self.assertContains(self.post(bring="1"), "brought in already")

    def test_columns_are_remembered(self):
        """The next file of the same columns is read in the way that was chosen; a meaning is changed by hand and tried at once."""
        self.upload(STOCK)
        self.post(**{"c:5:meaning": "level"})
        self.assertEqual(Upload.objects.first().columns[5]["kind"], "level")
        self.post(bring="1", remember="1")
        self.assertEqual((Shape.objects.count(), products_of(["E"])["E"].offer.level), (1, 4))
        self.assertEqual(self.upload(STOCK.replace("Gaff", "Boathook")).context["page"].columns[5].meaning, "level")
        self.post(**{"c:0:meaning": "unused"})
        self.assertContains(self.client.get(f"/catalogue/bring-in/{Upload.objects.first().pk}/"), "No column says which product a row is")

    def test_what_the_file_does_not_name(self):
        """Is kept, hidden or deleted, as was chosen."""
        for way, left in (("hide", ["A", "B", "C"]), ("delete", ["A"])):
            replace_catalogue(LINES)
            self.upload("SKU,Brand\nA,Hollin\n")
            self.post(missing=way, bring="1")
            self.assertEqual(sorted(Product.objects.values_list("identity", flat=True)), left)
            self.assertEqual(Product.objects.filter(visible=True).count(), 1)

    def test_stock_of_variants_by_their_numbers(self):
        """A list of articles with price and stock finds the variants it means; a price for a product of several is refused."""
        self.assertContains(self.upload("SKU,Price,Stock\nC,9,\n"), "has variants with prices of their own")
        self.upload("SKU,Price,Stock\nC-1,7.25,3\nA,6,\nC,,\n")
        self.assertEqual(self.report(), [0, 2, 0, 1, 0])
        self.post(bring="1")
        found = products_of(["C"])["C"]
        self.assertEqual([(a.sku, a.offer.price, a.offer.level) for a in found.variants], [("C-1", exact("7.25"), 3), ("C-2", 4, None)])
        self.assertEqual((found.name, products_of(["A"])["A"].name), ("Halyard", "Horn cleat"))

    def test_files_that_are_none(self):
        """Empty, broken, no text, too many columns, an archive, a cell without end: each is told what it is, and nothing is kept of it."""
        book = BytesIO()
        sheet = Workbook()
        sheet.active.append(["SKU", "Name"])
        sheet.active.append(["W-1", "=1+1"])
        sheet.save(book)
        for name, content, words in (
            ("none.csv", b"", "submitted file is empty|is empty|Choose a file"), ("zero.csv", b"\0\1\2", "no text and no workbook"),
            ("wide.csv", b",".join(b"c%d" % n for n in range(10_000)), "10,000 columns, more than 500"),
            ("cell.csv", b"SKU,Name\nA," + b"x" * 1_000_001, "more than 100,000"), ("open.csv", b'SKU,Name\nA,"x', None),
            ("book.xlsx", b"PK\x03\x04broken", "begins as a workbook, but is broken"), ("x.json", b"{", None),
        ):  # fmt: skip
            with self.subTest(name):
                found = self.upload(content, name)
                if words:
                    self.assertRegex(found.content.decode(), words)
                self.assertTrue(same(state(), self.before))
        self.assertEqual(self.client.post("/catalogue/bring-in/", {}).status_code, 422)
        self.assertContains(self.upload(book.getvalue(), "book.xlsx"), "XLSX")

    def test_cancelling_and_failing(self):
        """Cancelled work changes nothing and can be begun again; work that broke says so."""
        self.upload(STOCK)
        for error, words in ((Stopped, "was cancelled. Nothing was changed"), (ZeroDivisionError, "Something went wrong")):
            with mock.patch.object(imports, "bring_in", side_effect=error), suppress(ZeroDivisionError):
                self.post(bring="1")
            self.assertContains(self.client.get(f"/catalogue/bring-in/{Upload.objects.first().pk}/"), words)
        self.assertTrue(same(state(), self.before))
        self.assertContains(self.post(bring="1"), "1 new and 1 changed")

    def test_chosen_too_late(self):
        """What is being brought in is not read in another way, nor told to delete what it leaves out."""
        self.upload(STOCK)
        seen = Upload.objects.get()
        Upload.objects.update(state=Upload.State.BRINGING)
        self.assertFalse(uploads.choose(seen, {1: {"meaning": "unused"}}, missing="delete"))
        now = Upload.objects.get()
        self.assertEqual((now.missing, now.columns), ("keep", seen.columns))

    def test_pressed_twice(self):
        """Two requests that both saw the file tried bring it in once."""
        self.upload(STOCK)
        first, second = (Upload.objects.get() for _ in range(2))
        tasks.take_soon(first)
        done = Revision.objects.count()
        tasks.take_soon(second)
        tasks.try_soon(second)
        self.assertEqual((second.state, Upload.objects.get().state), (Upload.State.DONE, Upload.State.DONE))
        self.assertEqual(Revision.objects.count(), done)

    def test_a_process_that_died(self):
        """A file whose process went away, before it began or in the middle, is its owner's again: tried again, taken, or left."""
        with mock.patch.object(tasks, "is_worker_alive", return_value=True), mock.patch.object(tasks, "_SMALL", 10):
            self.upload(STOCK)
        address = f"/catalogue/bring-in/{Upload.objects.first().pk}/"
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_events; DELETE FROM procrastinate_jobs")  # as the worker's house-keeping does
        page = self.client.get(address)
        self.assertContains(page, "The process doing it went away. Nothing was changed")
        self.assertContains(page, "Try again")
        self.post(again="1")
        self.assertEqual(self.report(), [1, 1, 0, 1, 1])
        begun = Work.objects.create(what="Bringing in", state=Work.State.RUNNING, started=timezone.now())
        Upload.objects.update(state=Upload.State.BRINGING, work=begun.pk)
        self.assertContains(self.client.get(address), "The process doing it went away")
        self.assertContains(self.client.get("/activity/"), "The process doing it went away. Nothing of it was kept.")
        self.assertContains(self.post(bring="1"), "1 new and 1 changed")

    def test_large_files_are_done_in_the_background(self):
        """With a worker they wait for it; the page shows that, and asks again by itself."""
        with mock.patch.object(tasks, "is_worker_alive", return_value=True), mock.patch.object(tasks, "_SMALL", 10):
            page = self.upload(STOCK)
            self.assertEqual(list(ProcrastinateJob.objects.values_list("args", flat=True)), [{"number": Upload.objects.first().pk}])
            self.assertContains(page, 'hx-trigger="every 2s"')
            self.assertContains(self.post(bring="1"), "Wait until it is done")
        tasks.try_upload(Upload.objects.first().pk)
        self.assertEqual(self.report(), [1, 1, 0, 1, 1])
        self.client.post(f"/catalogue/bring-in/{Upload.objects.first().pk}/forget/")
        self.assertEqual(Upload.objects.count(), 0)
