"""People, one's own account, and coming in by a link."""

from django.contrib import messages
from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views import View

from binsort.changes import people as people_changes
from binsort.changes.people import PeopleRefused, password_link
from binsort.people.acts import Role
from binsort.people.models import Invitation
from binsort.workbench.frame.views import OwnerView

from .page import people_page, role_words

_PASSWORD_LINK = "password_link"  # in the session, until it is shown
_BACKEND = "django.contrib.auth.backends.ModelBackend"


class PeopleView(OwnerView):
    """A page about people."""

    section = "people"


class People(PeopleView):
    """Who may do what; somebody is invited here."""

    template = "workbench/people/people.html"
    fragment = "workbench/people/_people.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        shown = request.session.pop(_PASSWORD_LINK, None)
        return self.show(request, {"page": people_page(request.user), "password_link": shown})  # type: ignore[arg-type]

    def post(self, request: HttpRequest) -> HttpResponse:
        form = request.POST
        try:
            people_changes.invite(
                _role(form.get("role", "")),
                products="products" in form,
                note=form.get("note", ""),
                days=_number(form.get("days", "")),
                places=_number(form.get("places", "")),
                actor=request.user,
            )
        except PeopleRefused as reason:
            messages.warning(request, str(reason))
        else:
            messages.success(request, _("The link stands below. Copy it and give it to whom it is for."))
        return redirect("people")


class Person(PeopleView):
    """What is done to one person."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        user = get_object_or_404(User, pk=number)
        try:
            self._do(request, user)
        except PeopleRefused as reason:
            messages.warning(request, str(reason))
        return redirect("people")

    def _do(self, request: HttpRequest, user: User) -> None:
        act, name = request.POST.get("act", ""), user.get_full_name() or user.get_username()
        if act == "role":
            role = _role(request.POST.get("role", ""))
            if people_changes.set_role(user, role, products="products" in request.POST, actor=request.user):
                messages.success(request, _("%(name)s is now %(role)s.") % {"name": name, "role": role_words(role).lower()})
        elif act == "remove":
            people_changes.remove_person(user, actor=request.user)
            messages.success(request, _("%(name)s comes in no more. What they did stays in the history.") % {"name": name})
        elif act == "password":
            token = people_changes.give_password_link(user, actor=request.user)
            request.session[_PASSWORD_LINK] = (name, request.build_absolute_uri(reverse("new-password", args=[token])))
        elif act == "sign-out":
            people_changes.sign_out_everywhere(user, actor=request.user)
            messages.success(request, _("%(name)s is signed out everywhere.") % {"name": name})


def _role(text: str) -> Role:
    try:
        return Role(text)
    except ValueError:
        raise PeopleRefused(_("Choose how far they may go.")) from None


def _number(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 6 else 0


class InvitationEnd(PeopleView):
    """Ending an invitation."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        done = people_changes.end_invitation(number, actor=request.user)
        messages.info(request, _("The link works no more.") if done else _("It was ended before."))
        return redirect("people")


class Account(PeopleView):
    """One's own password."""

    template = "workbench/people/account.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        return self.show(request, {})

    def post(self, request: HttpRequest) -> HttpResponse:
        user: User = request.user  # type: ignore[assignment]
        old, new = request.POST.get("old", ""), request.POST.get("new", "")
        problems = []
        if not user.check_password(old):
            problems.append(_("That is not your password of now."))
        elif new != request.POST.get("again", ""):
            problems.append(_("The new password is written in two ways. Write it twice alike."))
        else:
            try:
                people_changes.change_password(user, new)
            except ValidationError as error:
                problems += error.messages
        if problems:
            return self.show(request, {"problems": problems}, status=422)
        update_session_auth_hash(request, user)
        messages.success(request, _("The password is changed. Everywhere else you are signed out."))
        return redirect("people")


class SignOutEverywhere(PeopleView):
    """Signing oneself out wherever one is signed in."""

    def post(self, request: HttpRequest) -> HttpResponse:
        people_changes.sign_out_everywhere(request.user, actor=request.user)  # type: ignore[arg-type]
        return redirect("sign-in")


class ComeIn(View):
    """An invitation: whoever has it chooses a name and a password."""

    def get(self, request: HttpRequest, token: str) -> HttpResponse:
        return self._shown(request, token)

    def post(self, request: HttpRequest, token: str) -> HttpResponse:
        form = request.POST
        try:
            user = people_changes.come_in(
                token, name=form.get("name", ""), username=form.get("username", ""), password=form.get("password", "")
            )
        except PeopleRefused as reason:
            return self._shown(request, token, [str(reason)])
        except ValidationError as error:
            return self._shown(request, token, error.messages)
        login(request, user, backend=_BACKEND)
        return redirect("rack")

    def _shown(self, request: HttpRequest, token: str, problems: list[str] | None = None) -> HttpResponse:
        row = None if "\0" in token else Invitation.objects.filter(token=token).first()
        is_open = row is not None and row.is_open
        context = {"role": role_words(row.role).lower() if row and is_open else "", "problems": problems or [], "typed": request.POST}
        response = render(request, "workbench/people/come_in.html", context, status=422 if problems else 200 if is_open else 404)
        response["Cache-Control"] = "no-store"
        return response


class NewPassword(View):
    """A link for a new password."""

    def get(self, request: HttpRequest, token: str) -> HttpResponse:
        return self._shown(request, token)

    def post(self, request: HttpRequest, token: str) -> HttpResponse:
        try:
            people_changes.use_password_link(token, request.POST.get("password", ""))
        except PeopleRefused as reason:
            return self._shown(request, token, [str(reason)])
        except ValidationError as error:
            return self._shown(request, token, error.messages)
        messages.success(request, _("The new password is set: sign in with it."))
        return redirect("sign-in")

    def _shown(self, request: HttpRequest, token: str, problems: list[str] | None = None) -> HttpResponse:
        found = password_link(token)
        if found is None and not problems:
            raise Http404(_("This link works no more."))
        context = {"user_name": found.user.get_username() if found else "", "problems": problems or []}
        response = render(request, "workbench/people/new_password.html", context, status=422 if problems else 200)
        response["Cache-Control"] = "no-store"
        return response
