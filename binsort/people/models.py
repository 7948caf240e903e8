"""The shop's own people, the invitations that let others in, and links for new passwords."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from .acts import Role

_ROLES = [(role.value, role.value) for role in Role]


class Member(models.Model):
    """How far somebody may go. An account made at the command line that has none is an owner's."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    role = models.TextField(choices=_ROLES)
    products = models.BooleanField(default=True)  # of an editor: the catalogue, too
    since = models.DateTimeField(default=timezone.now)
    signed_out_at = models.DateTimeField(null=True)  # who signed in before is signed out, wherever that was

    class Meta:
        constraints = (models.CheckConstraint(condition=models.Q(role__in=[role.value for role in Role]), name="role_is_known"),)

    def __str__(self) -> str:
        return f"{self.user} ({self.role})"


class Invitation(models.Model):
    """A link by which people come in, until it ends, is ended or is used up."""

    token = models.TextField(unique=True)  # kept as it is, for owners copy it again
    role = models.TextField(choices=_ROLES)
    products = models.BooleanField(default=True)
    note = models.TextField(blank=True)  # for whom; only owners see it
    places = models.PositiveIntegerField(default=1)
    used = models.PositiveIntegerField(default=0)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ends_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
        constraints = (models.CheckConstraint(condition=models.Q(used__lte=models.F("places")), name="places_are_not_overrun"),)

    def __str__(self) -> str:
        return self.note or f"a link for {self.role}s"

    @property
    def is_open(self) -> bool:
        """Whether somebody can still come in by it."""
        return self.ended_at is None and self.used < self.places and self.ends_at > timezone.now()


class PasswordLink(models.Model):
    """A link by which somebody sets a new password, once, within a day."""

    digest = models.TextField(unique=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    ends_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"a new password for {self.user}"
