"""Takes the pictures of the documentation from the running demo: ``python -m tools.screenshots ADDRESS``."""

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


SHOTS: dict[str, tuple[str, tuple[int, int], Callable[[Page], None] | None]] = {
    "rack": ("/racks/?category=Rope+and+cordage&colour=navy&price=20-to-50", WIDE, None),
    "rack-untried": ("/racks/?category=Rope+and+cordage", WIDE, None),
    "add-facet": ("/racks/add/?category=Rope+and+cordage&source=breaking-load", WIDE, None),
    "facet": ("/racks/facets/price/?category=Rope+and+cordage", WIDE, None),
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
            page = _page(browser, size, state if path.startswith(("/racks/", "/activity/")) else None)
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
