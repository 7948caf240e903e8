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
    page.click("#drawer-opener")
    page.wait_for_timeout(500)


def fill_the_basket(page: Page) -> None:
    """Put two articles into the basket beside a product."""
    page.click("p.add button")
    page.wait_for_selector("#basket-panel li")
    page.locator(".articles a").first.click()
    page.wait_for_load_state("networkidle")
    page.fill("[name=quantity]", "1")
    page.click("p.add button")
    page.wait_for_timeout(600)


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


def take_a_cut_in_hand(page: Page) -> None:
    """Let the keyboard stand on a cut of the range bench."""
    page.wait_for_selector("#range-bench[data-ready]")
    page.focus("#cut-2")
    page.wait_for_timeout(600)


def merge_colours(page: Page) -> None:
    """Merge what is one colour, leave out what says nothing."""
    for value, into in (("Navy blue", "Navy"), ("Gray", "Grey"), ("Racing green", "Green")):
        page.focus(f"[data-value='{value}'] input")
        page.keyboard.press("m")
        page.fill("#merge-find", into)
        page.keyboard.press("Enter")
        page.wait_for_selector(f"[data-undo] button[title='Colour: {value} merged into {into}']")
    page.focus("[data-value='Default'] input")
    page.keyboard.press("x")
    page.wait_for_selector("[data-undo] button[title='Colour: Default left out']")


def send(page: Page, address: str, **fields: str | tuple[str, ...]) -> None:
    """Send a form of the tool."""
    pairs = [[name, text] for name, value in fields.items() for text in ([value] if isinstance(value, str) else value)]
    page.evaluate(
        """([address, pairs]) => {
          const form = new FormData();
          for (const [name, text] of pairs) form.append(name, text);
          return tool.send(address, form).then((answer) => answer.status);
        }""",
        [address, pairs],
    )


def come_to(page: Page, address: str) -> None:
    """Go to another page of the tool."""
    page.goto("/".join(page.url.split("/")[:3]) + address, wait_until="networkidle")


def place_racks(page: Page) -> None:
    """Make some racks, stand them on listings, and choose one place."""
    rope = "rope and cordage"
    racks = (("Quick row", ("stock", "rating")), ("Running rack", ("price", "colour", "diameter")), ("Splicing", ("material",)))
    for label, facets in racks:
        send(page, "/racks/all/", label=label)
        for key in facets:
            send(page, f"/racks/facets/{key}/put/", rack=label.lower().replace(" ", "-"), how="share")
    for at, where, rack in (
        ("all", "above", "quick-row"), (f"{rope} > running rigging", "side", "running-rack"), (rope, "below", "splicing"),
    ):  # fmt: skip
        send(page, "/listings/", at=at, where=where, choice="own", rack=rack, below="1")
    send(page, "/listings/", at=f"{rope} > small cordage", where="below", choice="nothing", below="0")
    send(page, "/racks/put-live/", note="A rack for running rigging")
    come_to(page, f"/listings/?at={rope} > running rigging&where=side&choice=own&rack=quick-row")


def change_and_review(page: Page) -> None:
    """Change a few things and look at them beside what is live."""
    send(page, "/racks/facets/colour/act/", act="merge", into="Red", value="Oxblood")
    send(page, "/racks/facets/diameter/act/", act="cuts", cut=("6", "8", "10", "16"))
    come_to(page, "/racks/review/?category=Rope+and+cordage")


SHOTS: dict[str, tuple[str, tuple[int, int], Callable[[Page], None] | None]] = {
    "rack": ("/racks/?category=Rope+and+cordage&colour=navy&price=20-to-50", WIDE, None),
    "checkup": ("/checkup/", WIDE, None),
    "footfall": ("/racks/of/side/footfall/?category=Rope+and+cordage", WIDE, None),
    "what-if": ("/racks/of/side/what-if/?category=Rope+and+cordage&change=move:diameter:1&change=cut:diameter:10", WIDE, None),
    "why": ("/racks/of/side/why/?category=Rope+and+cordage&diameter=5-to-8&colour=navy&stock=in&product=SC-1180", WIDE, None),
    "start": ("/racks/start/?anew=1", WIDE, None),
    "add-facet": ("/racks/add/?category=Rope+and+cordage&source=breaking-load", WIDE, None),
    "facet": ("/racks/facets/price/?category=Rope+and+cordage", WIDE, take_a_cut_in_hand),
    "controls": ("/racks/facets/colour/shoppers/?category=Rope+and+cordage", WIDE, None),
    "catalogue": ("/catalogue/?category=Rope+and+cordage&missing=attribute:breaking+load", WIDE, fill_a_gap),
    "bring-in": ("/catalogue/bring-in/", WIDE, try_a_file),
    "shop": ("/shop/c/spring-refit/?colour=navy&colour=white&price=20..50", WIDE, None),
    "shop-nothing": ("/shop/c/rope-and-cordage/?colour=racing-green&diameter=5-to-8&stock=in", WIDE, None),
    "product": ("/shop/p/SC-1004/?colour=orange&price=20..50", WIDE, fill_the_basket),
    "phone": ("/shop/c/spring-refit/?colour=navy&colour=white&price=20..50", PHONE, open_drawer),
    "facet-values": ("/racks/facets/colour/?category=Rope+and+cordage", WIDE, merge_colours),
    "listings": ("/racks/all/", WIDE, place_racks),
    "review": ("/racks/", WIDE, change_and_review),
    "other-sites": ("/listings/sites/of/marram-19/", WIDE, None),
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
            page = _page(browser, size, None if path.startswith("/shop/") else state)
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
