"""The catalogue in a browser: a file with a bad row up to the live count, the sheet by keyboard, two people, the tree, and without scripts."""

import tempfile
from pathlib import Path

from binsort.catalog.models import Revision
from binsort.catalog.store.product_rows import products_of
from binsort.core.products.edits import Field, held

from .pages import BrowserTestCase, wait_until

ROWS = """Item code;Title;Category;Till;Colour
SC-1012;Orrin braid-on-braid halyard, 12 mm × 40 m;Rope and cordage > Running rigging > Halyards;94,50;Teal
SC-9001;Tarred marline;Rope and cordage > Small cordage;POA;Teal
SC-9002;Gasket line;Rope and cordage > Small cordage;7,20;Teal
"""


def value(name, attribute):
    """What a product says of an attribute."""
    return [found for found, _ in held(products_of([name], hidden=True)[name], Field("attribute", attribute))]


class BringingTests(BrowserTestCase):
    def test_a_file_with_a_bad_row_up_to_the_live_count(self):
        """Uploaded, a column corrected, the refused row seen; brought in, shoppers count it at once; undone, they do not."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "stock-may.csv"
            path.write_text(ROWS, encoding="utf-8")
            page = self.sign_in()
            page.click("nav >> text=Catalogue")
            page.click("text=Bring in a file")
            page.set_input_files("#file", path)
            page.click("text=Look at it")
        page.wait_for_selector(".trial")
        self.assert_accessible(page, "columns of a file")
        page.select_option("[name='c:3:meaning']", "price")
        page.wait_for_selector(".refusals .bad:has-text('POA')")
        self.assertIn("is no number", page.inner_text(".refusals"))
        page.click("text=Bring in 2 products")
        page.wait_for_selector("text=See the catalogue")
        shopper = self.open("/shop/?colour=teal", scripts=False)
        self.assertIn("2 of", shopper.inner_text(".title"))
        page.click("button:has-text('Undo')")
        page.wait_for_selector("text=Undone: Brought in stock-may.csv")
        shopper.reload()
        self.assertNotIn("2 of", shopper.inner_text(".title"))


class SheetTests(BrowserTestCase):
    def open_missing(self):
        """The products of a listing that lack a breaking load."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/catalogue/?category=Rope+and+cordage")
        page.click("[aria-label='Show the 22 products without Breaking load']")
        page.wait_for_selector("text=Breaking load: missing")
        return page

    def test_filled_by_keyboard(self):
        """Arrows go to the first gap, typing opens it, Enter keeps it and opens the next; a refused value stays until it is put right."""
        page = self.open_missing()
        first, second = (page.locator("tbody tr").nth(n).get_attribute("data-product") for n in (0, 1))
        page.locator("tbody td.cell").first.focus()
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.type("much")
        page.wait_for_selector(".hanging p.edit-keys")
        page.keyboard.press("Enter")
        page.wait_for_selector(".editor.refused")
        self.assertIn("“much” is no number", page.inner_text(".hanging"))
        page.keyboard.press("Control+a")
        page.keyboard.type("11.5")
        page.keyboard.press("Enter")
        page.wait_for_selector("[aria-label='Show the 21 products without Breaking load'], [aria-label='Show all again']")
        page.wait_for_selector(f"tr[data-product='{first}'] td:has-text('11.5')")
        page.wait_for_selector(".editor:not(.refused) .hanging li")
        page.keyboard.press("ArrowDown")
        suggested = page.input_value(".editor input")
        page.keyboard.press("Enter")
        page.wait_for_selector(f"tr[data-product='{second}'] td:has-text('{suggested}')")
        page.keyboard.press("Escape")
        wait_until(page, "document.querySelector('.cover-words .picked-words').textContent.trim().startsWith('20')")
        heads = page.evaluate("[...document.querySelectorAll('th[data-key]')].map(head => head.dataset.key)")
        rows = page.evaluate(
            "[...document.querySelectorAll('tbody tr')].map(row => [...row.querySelectorAll('td.cell')].map(cell => cell.dataset.field))"
        )
        self.assertEqual([row for row in rows if row != heads], [])
        self.assertTrue(value(first, "Breaking load") and value(second, "Breaking load"))
        page.keyboard.press("Control+z")
        page.wait_for_selector("text=Undone: Set Breaking load")
        self.assertEqual(value(second, "Breaking load"), [])

    def test_many_at_once(self):
        """Ticked with Shift, the effect is said before, the button repeats the number; taken back by the message."""
        page = self.open_missing()
        boxes = page.locator("tbody input[name=product]")
        boxes.nth(0).click()
        boxes.nth(3).click(modifiers=["Shift"])
        self.assertEqual(page.inner_text("#bulk-count"), "4 products selected")
        page.select_option("#bulk [name=field]", "tags")
        page.locator("#bulk label:has-text('Add')").click()
        page.fill("#bulk [name=text]", "check me")
        page.wait_for_selector("#effect:has-text('Will change 4 products')")
        self.assert_accessible(page, "the sheet with a selection")
        page.click("button:has-text('Change 4 products')")
        page.wait_for_selector(".notice:has-text('of 4 products')")
        page.click(".notice button:has-text('Undo')")
        page.wait_for_selector("text=Undone: Added check me")
        page.locator("tbody input[name=product]").first.click()
        page.click("#select-every")
        self.assertEqual(page.inner_text("#bulk-count"), "22 products selected")

    def test_values_are_chips(self):
        """Several values are picked and taken away by keyboard; what was worked in is what the bar of many would change."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/catalogue/?category=Rope+and+cordage")
        cell = page.locator("td.cell[data-field=categories]").first
        name, before = cell.evaluate("cell => cell.parentElement.dataset.product"), cell.get_attribute("data-text")
        cell.focus()
        page.keyboard.press("Enter")
        page.keyboard.type("safety")
        page.wait_for_selector(".hanging li:has-text('Safety')")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        page.wait_for_selector(".one-value:nth-child(2)")
        page.keyboard.press("Enter")
        page.wait_for_selector(f"tr[data-product='{name}'] td[data-text='{before} | Safety']")
        page.keyboard.press("Escape")
        cell = page.locator(f"tr[data-product='{name}'] td[data-field=categories]")
        cell.focus()
        page.keyboard.press("Enter")
        page.keyboard.press("Backspace")
        page.wait_for_selector(".one-value:only-child")
        page.keyboard.press("Tab")
        page.wait_for_selector(f"tr[data-product='{name}'] td[data-text='{before}']")
        page.locator("td.cell[data-field='attribute:material']").nth(2).focus()
        page.locator("tbody input[name=product]").first.click()
        self.assertEqual(page.input_value("#bulk [name=field]"), "attribute:material")
        self.assertTrue(page.is_disabled("#bulk-do"))
        page.locator("#bulk label:has-text('Empty')").click()
        page.wait_for_selector("#effect:has-text('Will empty 1 product')")
        asked = []
        page.once("dialog", lambda dialog: (asked.append(dialog.message), dialog.dismiss()))
        page.click("#bulk-do")
        self.assertEqual(asked, ["Empty Material of 1 product? Undo brings the values back."])

    def test_the_page_of_a_product(self):
        """Several values are chips, known ones hang from the field while somebody types; a new one is asked about before it is kept."""
        page = self.sign_in()
        page.goto(self.live_server_url + "/catalogue/products/SC-1012/")
        field = page.get_by_label("Tags", exact=False).first
        field.fill("zz top")
        field.press("Enter")
        page.get_by_role("button", name="zz top: take away").wait_for()
        brand = page.locator("#f-brand")
        brand.fill("Sam")
        page.locator(".of-field li:has-text('Sam')").first.wait_for()
        brand.press("ArrowDown")
        brand.press("Enter")
        self.assertTrue(brand.input_value().startswith("Sam"))
        chosen = brand.input_value()
        brand.fill(chosen[:-1] + "x")
        brand.press("Escape")
        page.get_by_role("button", name="Save", exact=True).click()
        page.locator("#new-values").wait_for()
        self.assert_accessible(page, "new values asked about")
        page.get_by_role("button", name=f"Take {chosen}").click()
        self.assertEqual(page.locator("#f-brand").input_value(), chosen)
        page.get_by_role("button", name="zz top: take away").click()
        page.get_by_role("button", name="Save", exact=True).click()
        page.locator("text=Changed").first.wait_for()
        product = products_of(["SC-1012"])["SC-1012"]
        self.assertEqual((product.brand, "zz top" in product.tags), (chosen, False))

    def test_two_people_at_one_cell(self):
        """The second is shown what the first made of it, and chooses."""
        page = self.open_missing()
        name = page.locator("tbody tr").first.get_attribute("data-product")
        cell = page.locator(f"tr[data-product='{name}'] td[data-field='attribute:breaking load']")
        other = self.sign_in()
        other.goto(page.url)
        theirs = other.locator(f"tr[data-product='{name}'] td[data-field='attribute:breaking load']")
        theirs.click()
        other.keyboard.type("9")
        other.keyboard.press("Tab")
        other.wait_for_selector(f"tr[data-product='{name}'] td[data-field='attribute:breaking load'][data-text='9']")
        cell.click()
        page.keyboard.type("8")
        self.errors.clear()
        page.keyboard.press("Enter")
        page.wait_for_selector("text=Meanwhile somebody else changed it to “9”")
        page.click("text=Set mine")
        page.wait_for_selector(f"tr[data-product='{name}'] td[data-field='attribute:breaking load'][data-text='8']")
        self.assertEqual(value(name, "Breaking load"), [8])
        self.errors = [error for error in self.errors if "409" not in error]

    def tearDown(self):
        """A refused cell is an answer, no error of a script."""
        self.errors = [error for error in self.errors if "422" not in error]
        super().tearDown()


class OtherPagesTests(BrowserTestCase):
    def test_the_tree_by_keyboard_and_look_alikes(self):
        """A category moves below the one before and out again with its handle focused; look-alikes go in one click and come back in one."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/catalogue/categories/")
        grip = page.locator("[aria-label='Move Sheets']")
        grip.focus()
        page.keyboard.press("ArrowRight")
        page.wait_for_selector("text=Moved the category Sheets below Halyards")
        self.assertEqual(page.evaluate("document.activeElement.getAttribute('aria-label')"), "Move Sheets")
        page.keyboard.press("ArrowLeft")
        page.wait_for_selector("text=Moved the category Sheets below Running rigging")
        self.assert_accessible(page, "categories")
        page.goto(f"{self.live_server_url}/catalogue/attributes/")
        self.assert_accessible(page, "attributes")
        page.click("text=look alike")
        self.assert_accessible(page, "an attribute")
        page.click("text=Merge into Grey")
        page.wait_for_selector(".notice:has-text('Renamed Gray in Colour to Grey')")
        page.click(".notice button:has-text('Undo')")
        page.wait_for_selector("text=Undone: Renamed Gray")

    def test_without_scripts(self):
        """The sheet is read, its forms are sent, a product is saved, a file is tried; and the pages are accessible."""
        page = self.sign_in(scripts=False)
        page.goto(f"{self.live_server_url}/catalogue/?q=SC-1012")
        page.check("[name=product]")
        page.select_option("#bulk [name=field]", "brand")
        page.fill("#bulk [name=text]", "Samphire")
        page.click("#bulk-do")
        self.assertIn("of 1 product", page.inner_text(".notice"))
        page.click("tbody th a")
        page.fill("[name='f:brand']", "Hollin")
        page.click("button:has-text('Save')")
        self.assertEqual(products_of(["SC-1012"])["SC-1012"].brand, "Hollin")
        self.assertEqual(Revision.objects.count(), 2)
        page.goto(f"{self.live_server_url}/catalogue/bring-in/")
        page.set_input_files("#file", {"name": "stock-may.csv", "mimeType": "text/csv", "buffer": ROWS.encode()})
        page.click("text=Look at it")
        page.select_option("[name='c:3:meaning']", "price")
        page.click("button:has-text('Bring in')")
        self.assertIn("is no number", page.inner_text(".refusals"))
        audited = self.sign_in()
        for path in ("/catalogue/", "/catalogue/products/SC-1012/", "/catalogue/bring-in/", "/catalogue/api/", "/catalogue/new/"):
            audited.goto(self.live_server_url + path)
            self.assert_accessible(audited, path)
