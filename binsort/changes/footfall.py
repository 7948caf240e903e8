"""Footfall: counting visits, or not."""

from typing import Any

from django.db import transaction
from django.utils.translation import gettext as _

from binsort.footfall.models import Switch
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Entry

from .history import tell


@needs(Act.LIVE)
@transaction.atomic
def count_visits(*, on: bool, actor: Any) -> None:
    """Count shoppers' visits from now on, or count them no more; what was counted stays."""
    Switch.objects.update_or_create(pk=1, defaults={"on": on})
    tell(Entry.Kind.PEOPLE, _("Visits are counted") if on else _("Visits are counted no more"), actor=actor)
