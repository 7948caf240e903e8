"""Rights: what each address of the tool needs, to look at it and to send a form to it. An address that is not here is nobody's."""

from binsort.people.acts import Act

LOOK, DRAFT, PRODUCTS, LIVE, PEOPLE = Act.LOOK, Act.DRAFT, Act.PRODUCTS, Act.LIVE, Act.PEOPLE
NEEDED: dict[str, tuple[Act, Act]] = {  # by the name of an address: to look, to change
    # racks and facets
    "start": (LOOK, DRAFT),
    "rack": (LOOK, DRAFT), "rack-of": (LOOK, DRAFT), "racks": (LOOK, DRAFT), "rack-add": (LOOK, DRAFT), "rack-order": (DRAFT, DRAFT),
    "rack-rename": (DRAFT, DRAFT), "rack-copy": (DRAFT, DRAFT), "rack-delete": (LOOK, DRAFT), "rack-behaves": (LOOK, DRAFT),
    "facet": (LOOK, DRAFT), "facet-shoppers": (LOOK, DRAFT), "facet-reading": (LOOK, DRAFT), "facet-read": (DRAFT, DRAFT),
    "facet-text": (PRODUCTS, PRODUCTS), "facet-act": (DRAFT, DRAFT), "facet-numbers": (LOOK, LOOK), "facet-order": (DRAFT, DRAFT),
    "facet-unbinned": (LOOK, LOOK), "facet-move": (DRAFT, DRAFT), "facet-remove": (DRAFT, DRAFT), "facet-put": (DRAFT, DRAFT),
    "facet-heading": (DRAFT, DRAFT), "facet-apart": (DRAFT, DRAFT),
    "facet-when": (DRAFT, DRAFT), "undo": (DRAFT, DRAFT), "redo": (DRAFT, DRAFT),
    "setup-file": (LOOK, DRAFT), "setup-out": (LOOK, LOOK), "setup-master": (LIVE, LIVE),
    "footfall": (LOOK, LOOK), "why": (LOOK, LOOK), "why-of": (LOOK, LOOK), "what-if": (LOOK, DRAFT), "footfall-switch": (LIVE, LIVE),
    "checkup": (LOOK, DRAFT), "checkup-number": (LOOK, LOOK), "checkup-mend": (DRAFT, DRAFT), "checkup-leave": (DRAFT, DRAFT),
    "checkup-take-up": (DRAFT, DRAFT), "checkup-lead": (DRAFT, DRAFT),
    "placing": (LOOK, DRAFT), "shop-face": (LOOK, LIVE), "shop-theme": (LOOK, LIVE), "jump": (LOOK, LOOK), "components": (LOOK, LOOK),
    # what shoppers see
    "review": (LOOK, LOOK), "review-take-back": (DRAFT, DRAFT), "put-live": (LIVE, LIVE), "schedule": (LIVE, LIVE),
    "call-off": (LIVE, LIVE),
    "draft-link": (DRAFT, DRAFT), "draft-link-end": (DRAFT, DRAFT), "history": (LOOK, LOOK), "entry-take-back": (DRAFT, DRAFT),
    "go-back": (LIVE, LIVE), "into-draft": (DRAFT, DRAFT),
    # the catalogue
    "catalogue": (LOOK, PRODUCTS), "catalogue-head": (LOOK, LOOK), "catalogue-columns": (LOOK, LOOK),
    "catalogue-cell": (PRODUCTS, PRODUCTS),
    "catalogue-suggest": (LOOK, LOOK), "catalogue-bulk": (PRODUCTS, PRODUCTS), "take-back": (PRODUCTS, PRODUCTS),
    "do-again": (PRODUCTS, PRODUCTS),
    "take-out": (LOOK, LOOK), "taken-out": (LOOK, LOOK), "product-new": (PRODUCTS, PRODUCTS), "product": (LOOK, PRODUCTS),
    "product-delete": (PRODUCTS, PRODUCTS), "bring-in": (PRODUCTS, PRODUCTS), "bring-file": (PRODUCTS, PRODUCTS),
    "bring-refused": (PRODUCTS, PRODUCTS), "bring-forget": (PRODUCTS, PRODUCTS), "attributes": (LOOK, PRODUCTS),
    "attributes-order": (PRODUCTS, PRODUCTS), "attribute": (LOOK, PRODUCTS), "attribute-delete": (PRODUCTS, PRODUCTS),
    "attribute-values": (PRODUCTS, PRODUCTS), "categories": (LOOK, PRODUCTS), "category-delete": (PRODUCTS, PRODUCTS),
    "activity": (LOOK, LOOK), "activity-again": (PRODUCTS, PRODUCTS), "activity-cancel": (PRODUCTS, PRODUCTS),
    "activity-try-again": (PRODUCTS, PRODUCTS),
    # people and other systems
    "people": (LOOK, PEOPLE), "person": (PEOPLE, PEOPLE), "invitation-end": (PEOPLE, PEOPLE), "account": (LOOK, LOOK),
    "account-sign-out": (LOOK, LOOK), "api": (PEOPLE, PEOPLE), "token-end": (PEOPLE, PEOPLE),
    "sites": (LOOK, PEOPLE), "site-end": (PEOPLE, PEOPLE), "embed": (LOOK, LIVE), "embed-add": (LIVE, LIVE), "embed-delete": (LIVE, LIVE),
}  # fmt: skip


def needed(name: str, method: str) -> Act | None:
    """Return what an address needs for a request; None for one that is nobody's."""
    acts = NEEDED.get(name)
    return acts[method not in ("GET", "HEAD")] if acts else None
