"""People: invited by a link, let further or less far, their passwords, signed out everywhere; two at once never leave a shop without an owner."""

from datetime import timedelta
from threading import Barrier, Thread
from unittest.mock import patch

from django.contrib.auth import get_user_model
from django.core.exceptions import ValidationError
from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from binsort.changes import people
from binsort.changes.people import PeopleRefused
from binsort.people.acts import Act, Role
from binsort.people.models import Member
from binsort.people.rights import NotAllowed, allowed
from binsort.racks.models import Entry

GOOD = "thrift-and-samphire"
User = get_user_model()


def somebody(name, role=Role.OWNER, products=True):
    """Return a person of the shop."""
    user = User.objects.create_user(name, password=GOOD, first_name=name.capitalize())
    Member.objects.create(user=user, role=role, products=products)
    return User.objects.get(pk=user.pk)


class InvitationTests(TestCase):
    def setUp(self):
        """An owner."""
        self.owner = somebody("mara")

    def come_in(self, token, username="josie", password=GOOD):
        """Open a link as somebody new."""
        client = self.client_class()
        return client, client.post(f"/in/{token}/", {"name": "Josie Pell", "username": username, "password": password})

    def test_by_link(self):
        """Whoever opens it chooses name and password, is let in as said, and no further; then it works no more."""
        self.client.force_login(self.owner)
        self.client.post("/people/", {"role": "editor", "note": "the summer help", "days": "7", "places": "1"})
        invited = self.client.get("/people/").context["page"].invitations[0]
        self.assertIn("the summer help", invited.told)
        client, done = self.come_in(invited.token)
        self.assertRedirects(done, "/racks/")
        self.assertEqual(allowed(User.objects.get(username="josie")), {Act.LOOK, Act.DRAFT})
        self.assertEqual(client.post("/racks/put-live/").status_code, 403)
        self.assertEqual(self.come_in(invited.token, "second")[1].status_code, 422)
        self.assertContains(self.client_class().get(f"/in/{invited.token}/"), "works no more", status_code=404)
        self.assertEqual(Entry.objects.first().words, "Josie Pell came in as editor")

    def test_what_is_refused(self):
        """A weak password, a name that is taken, a link that is over or ended: said, and nobody comes in."""
        row = people.invite(Role.VIEWER, days=1, places=5, actor=self.owner)
        for username, password, said in (
            ("josie", "short", "too short"),
            ("mara", GOOD, "signs in as mara already"),
            ("", GOOD, "Write your name"),
        ):
            _client, page = self.come_in(row.token, username, password)
            self.assertContains(page, said, status_code=422)
        with patch("django.utils.timezone.now", return_value=timezone.now() + timedelta(days=1, seconds=1)):
            self.assertEqual(self.come_in(row.token)[1].status_code, 422)
        people.end_invitation(row.pk, actor=self.owner)
        self.assertEqual(self.come_in(row.token)[1].status_code, 422)
        self.assertEqual(User.objects.count(), 1)
        with self.assertRaises(PeopleRefused):
            people.invite(Role.VIEWER, days=365, actor=self.owner)


class RoleTests(TestCase):
    def test_further_and_less_far(self):
        """An owner changes it, at once and told; the last owner stays one, and only owners change anybody."""
        owner, other = somebody("mara"), somebody("dan", Role.VIEWER)
        people.set_role(other, Role.EDITOR, products=False, actor=owner)
        self.assertEqual(allowed(User.objects.get(pk=other.pk)), {Act.LOOK, Act.DRAFT})
        self.assertEqual(Entry.objects.first().words, "Dan is now editor, without products")
        self.assertIsNone(people.set_role(other, Role.EDITOR, products=False, actor=owner))
        for do in (lambda: people.set_role(owner, Role.VIEWER, actor=owner), lambda: people.remove_person(owner, actor=owner)):
            with self.assertRaises(PeopleRefused):
                do()
        editor = User.objects.get(pk=other.pk)
        for do in (lambda: people.set_role(editor, Role.OWNER, actor=editor), lambda: people.sign_out_everywhere(owner, actor=editor)):
            with self.assertRaises(NotAllowed):
                do()

    def test_removed(self):
        """Who is removed is out at the next step; what they did keeps their name."""
        owner, other = somebody("mara"), somebody("dan", Role.EDITOR)
        self.client.force_login(other)
        self.assertEqual(self.client.get("/racks/").status_code, 200)
        people.remove_person(other, actor=owner)
        self.assertRedirects(self.client.get("/racks/"), "/sign-in/?next=/racks/")

    def test_who_only_looks_sees_so(self):
        """Pages say it, forms are out of reach, and what is sent all the same is refused in words."""
        self.client.force_login(somebody("rafe", Role.VIEWER))
        page = self.client.get("/racks/")
        self.assertContains(page, "You look here")
        self.assertContains(page, "data-looks-only")
        self.assertContains(self.client.post("/racks/undo/"), "You may look at this, not do it", status_code=403)


class PasswordTests(TestCase):
    def setUp(self):
        """An owner and somebody who forgot."""
        self.owner, self.other = somebody("mara"), somebody("dan", Role.EDITOR)

    def test_a_new_one_by_a_link(self):
        """It works once, within a day, ends sessions of the old one, and a newer link takes its place."""
        self.client.force_login(self.other)
        old = people.give_password_link(self.other, actor=self.owner)
        token = people.give_password_link(self.other, actor=self.owner)
        stranger = self.client_class()
        self.assertEqual(stranger.get(f"/new-password/{old}/").status_code, 404)
        self.assertContains(stranger.post(f"/new-password/{token}/", {"password": "short"}), "too short", status_code=422)
        self.assertRedirects(stranger.post(f"/new-password/{token}/", {"password": "sea-campion-and-more"}), "/sign-in/")
        self.assertEqual(stranger.post(f"/new-password/{token}/", {"password": "sea-campion-again"}).status_code, 422)
        self.assertRedirects(self.client.get("/racks/"), "/sign-in/?next=/racks/")
        self.assertTrue(User.objects.get(pk=self.other.pk).check_password("sea-campion-and-more"))
        late = people.give_password_link(self.other, actor=self.owner)
        with (
            patch("django.utils.timezone.now", return_value=timezone.now() + timedelta(days=1, seconds=1)),
            self.assertRaises(PeopleRefused),
        ):
            people.use_password_link(late, GOOD)

    def test_ones_own(self):
        """Changed with the old one; here one stays signed in, elsewhere not."""
        elsewhere = self.client_class()
        for client in (self.client, elsewhere):
            client.force_login(self.other)
        wrong = self.client.post("/account/", {"old": "nothing", "new": "sea-campion-and-more", "again": "sea-campion-and-more"})
        self.assertContains(wrong, "not your password", status_code=422)
        self.client.post("/account/", {"old": GOOD, "new": "sea-campion-and-more", "again": "sea-campion-and-more"})
        self.assertEqual(self.client.get("/racks/").status_code, 200)
        self.assertEqual(elsewhere.get("/racks/").status_code, 302)
        with self.assertRaises(ValidationError):
            people.change_password(self.other, "password")

    def test_signed_out_everywhere(self):
        """Every session from before ends; signing in again works."""
        phone = self.client_class()
        for client in (self.client, phone):
            client.force_login(self.other)
        self.client.post("/account/sign-out-everywhere/")
        for client in (self.client, phone):
            self.assertEqual(client.get("/racks/").status_code, 302)
        phone.force_login(User.objects.get(pk=self.other.pk))
        self.assertEqual(phone.get("/racks/").status_code, 200)


class AtOnceTests(TransactionTestCase):
    def test_two_owners_at_once(self):
        """Each makes the other less at the same moment: one of them stays an owner."""
        users = [somebody("mara"), somebody("ines")]
        start, refused = Barrier(2), []

        def demote(mine, other):
            start.wait()
            try:
                people.set_role(other, Role.VIEWER, actor=None)
            except PeopleRefused:
                refused.append(other)
            finally:
                connection.close()

        threads = [Thread(target=demote, args=pair) for pair in (users, users[::-1])]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((Member.objects.filter(role=Role.OWNER).count(), len(refused)), (1, 1))
