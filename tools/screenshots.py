"""Takes the pictures of the documentation from the running demo: ``python -m tools.screenshots ADDRESS``."""

import json
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
WIDE, PHONE = (1280, 800), (390, 844)
OWNER, PASSWORD = "mara", "sea-campion-and-thrift"


def open_drawer(page: Page) -> None:
    """Open the drawer of a phone."""
    page.click(".drawer-opener")


def fill_a_gap(page: Page) -> None:
    """Tick some products and open a cell of the sheet that lacks a value."""
    for number in range(3):
        page.locator("tbody input[name=product]").nth(number).check()
    page.select_option("#bulk [name=field]", "attribute:breaking load")
    page.fill("#bulk [name=text]", "46.5")
    page.locator("td[data-field='attribute:breaking load'] .lack").nth(4).click()
    page.wait_for_selector(".hanging li")
    page.keyboard.press("ArrowDown")


def try_a_file(page: Page) -> None:
    """Choose a file of some products of the demo, with two rows that cannot be taken."""
    catalogue = (FOLDER.parent.parent / "binsort" / "demo" / "data" / "saltmarsh.jsonl").read_text(encoding="utf-8").splitlines()
    rows = ["Item code;Title;Supplier;Sell price;Dia. (mm);Len;Web;Buyer notes"]
    for number, line in enumerate(map(json.loads, catalogue[:300])):
        if "hasVariant" not in line:
            price = "POA" if number == 12 else str(line["offers"].get("price", "")).replace(".", ",")
            web, notes = "N" if number % 40 == 0 else "Y", "reorder in June" if number % 9 == 0 else ""
            rows.append(f"{line['sku']};{line['name']};Orrin;{price};{8 + number % 9};{number % 30 or ''};{web};{notes}")
    rows += [";Unknown;;;;;;"]
    rows += [f"SC-9{number};Line {number};Hollin;{number},50;4;20;Y;" for number in range(100, 130)]
    page.set_input_files("#file", {"name": "stock-may.csv", "mimeType": "text/csv", "buffer": "\n".join(rows).encode()})
    page.click("text=Look at it")
    page.wait_for_selector(".trial")


SHOTS: dict[str, tuple[str, tuple[int, int], Callable[[Page], None] | None]] = {
    "rack": ("/racks/?category=Rope+and+cordage&colour=navy&price=20-to-50", WIDE, None),
    "rack-untried": ("/racks/?category=Rope+and+cordage", WIDE, None),
    "add-facet": ("/racks/add/?category=Rope+and+cordage&source=breaking-load", WIDE, None),
    "facet": ("/racks/facets/price/?category=Rope+and+cordage", WIDE, None),
    "catalogue": ("/catalogue/?category=Rope+and+cordage&missing=attribute:breaking+load", WIDE, fill_a_gap),
    "bring-in": ("/catalogue/bring-in/", WIDE, try_a_file),
    "attributes": ("/catalogue/attributes/", WIDE, None),
    "categories": ("/catalogue/categories/", WIDE, None),
    "edit-product": ("/catalogue/products/SC-1004/", WIDE, None),
    "activity": ("/activity/", WIDE, None),
    "sign-in": ("/sign-in/", WIDE, None),
    "shop": ("/shop/c/spring-refit/?colour=navy&colour=white&price=20..50", WIDE, None),
    "shop-nothing": ("/shop/?colour=clear&group=lighting", WIDE, None),
    "product": ("/shop/p/SC-1004/", WIDE, None),
    "phone": ("/shop/c/spring-refit/?colour=navy&colour=white&price=20..50", PHONE, open_drawer),
    "phone-listing": ("/shop/c/spring-refit/?colour=navy&colour=white&price=20..50", PHONE, None),
}


def main() -> None:
    """Take every picture, or those named behind the address."""
    address, wanted = sys.argv[1], sys.argv[2:]
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"])
        state = _signed_in(browser, address)
        for name, (path, size, before) in SHOTS.items():
            if wanted and name not in wanted:
                continue
            page = _page(browser, size, state if path.startswith(("/racks/", "/activity/", "/catalogue/")) else None)
            page.goto(address + path, wait_until="networkidle")
            page.evaluate("document.fonts.ready")
            if before:
                before(page)
            page.screenshot(path=FOLDER / f"{name}.png")
            page.context.close()
        browser.close()


def _page(browser: Browser, size: tuple[int, int], state: object = None) -> Page:
    phone = size == PHONE
    viewport = {"width": size[0], "height": size[1]}
    return browser.new_context(viewport=viewport, has_touch=phone, is_mobile=phone, storage_state=state).new_page()  # type: ignore[arg-type]


def _signed_in(browser: Browser, address: str) -> object:
    page = _page(browser, WIDE)
    page.goto(address + "/sign-in/")
    page.fill("#id_username", OWNER)
    page.fill("#id_password", PASSWORD)
    page.click("button:has-text('Sign in')")
    page.wait_for_url("**/racks/")
    return page.context.storage_state()


if __name__ == "__main__":
    main()
