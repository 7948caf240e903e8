"""What the shop's templates link."""

from dataclasses import replace
from functools import lru_cache

from django import template
from django.template.loader import render_to_string
from django.utils.html import escape
from django.utils.safestring import SafeString

from binsort.catalog.models import Category
from binsort.shopfront.addresses import address_of, category_address
from binsort.shopfront.cards import Card
from binsort.shopfront.drawn import Picked
from binsort.shopfront.listings import title_of

register = template.Library()
register.simple_tag(category_address)
register.simple_tag(title_of)


_ADDRESS, _WHY = "\ue002", "\ue003"  # stand for what a card links while it is drawn


@register.simple_tag
def card(card: Card) -> SafeString:
    """Draw a product. All of it but where it leads is drawn once, for its addresses carry the picks."""
    drawn = _card(card, bool(card.why))
    return SafeString(drawn.replace(_ADDRESS, escape(card.address)).replace(_WHY, escape(card.why)))


@lru_cache(maxsize=10_000)  # the same products are seen again and again
def _card(card: Card, is_asked: bool) -> str:
    marked = replace(card, address=_ADDRESS, why=_WHY if is_asked else "")
    return render_to_string("shopfront/_card.html", {"card": marked})


@register.simple_tag
def embedded_card(card: Card) -> SafeString:
    """Draw a product as other sites show it; all of it but where it leads is drawn once."""
    return SafeString(_embedded_card(card).replace(_ADDRESS, escape(card.address)))


@lru_cache(maxsize=10_000)
def _embedded_card(card: Card) -> str:
    return render_to_string("shopfront/embed/_card.html", {"card": replace(card, address=_ADDRESS)})


@register.simple_tag
def trail_address(trail: tuple[Category, ...], length: int) -> str:
    """Return the address of the first so many categories on a way through the tree."""
    return address_of(trail[:length])


_PLACE = "\ue001"  # stands for the place on the page


@register.simple_tag
def picks(picked: Picked, place: str) -> SafeString:
    """Draw the picks at one place of the page; they are drawn once, with other ids at each place."""
    return SafeString(_picks(picked).replace(_PLACE, place))


@lru_cache(maxsize=500)
def _picks(picked: Picked) -> str:
    return render_to_string("shopfront/_picks.html", {"picked": picked, "place": _PLACE})
