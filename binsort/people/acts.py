"""What people may do: five acts, in the order of whom they reach, and how far each role goes."""

from enum import StrEnum


class Act(StrEnum):
    """Something that can be done; each reaches more people than the one before."""

    LOOK = "look"  # look, try picks and read: reaches nobody
    DRAFT = "draft"  # facets and racks, in the draft
    PRODUCTS = "products"  # the catalogue, at once
    LIVE = "live"  # what shoppers see: put live, go back, schedule
    PEOPLE = "people"  # let people and other systems in


class Role(StrEnum):
    """How far somebody may go."""

    VIEWER = "viewer"
    EDITOR = "editor"
    KEEPER = "keeper"  # of products alone
    OWNER = "owner"


MAY: dict[Role, frozenset[Act]] = {
    Role.VIEWER: frozenset({Act.LOOK}),
    Role.EDITOR: frozenset({Act.LOOK, Act.DRAFT, Act.PRODUCTS}),
    Role.KEEPER: frozenset({Act.LOOK, Act.PRODUCTS}),
    Role.OWNER: frozenset(Act),
}
WITHOUT_PRODUCTS = frozenset({Act.PRODUCTS})  # what an editor of facets alone may not
OF_TOKENS = (Act.LOOK, Act.PRODUCTS)  # what other systems can be allowed


def acts_of(role: Role, *, products: bool = True) -> frozenset[Act]:
    """Return what a role may do; an editor with or without products.

    >>> sorted(acts_of(Role.EDITOR, products=False))
    [<Act.DRAFT: 'draft'>, <Act.LOOK: 'look'>]
    """
    return MAY[role] if products or role is not Role.EDITOR else MAY[role] - WITHOUT_PRODUCTS
