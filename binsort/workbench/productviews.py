"""The pages of one product."""

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect

from binsort.catalog.entering import BadValue
from binsort.catalog.records import products_of
from binsort.catalog.revising import Refused, newest, revise
from binsort.racks import editing

from .productview import new_product, product_page, read_form, save
from .views import OwnerView


class Product(OwnerView):
    """Everything of a product, to be edited."""

    template = "workbench/product.html"

    def get(self, request: HttpRequest, identity: str) -> HttpResponse:
        """Show it."""
        product = products_of([identity], hidden=True).get(identity)
        if product is None:
            raise Http404("There is no such product.")
        return self.show(request, {"page": product_page(editing.the_setup(), product), "newest": newest()})

    def post(self, request: HttpRequest, identity: str) -> HttpResponse:
        """Keep what was typed, or show beside it what is wrong."""
        form = read_form(request.POST)
        try:
            with transaction.atomic():
                revision = save(identity, form, actor=request.user)
        except LookupError:
            messages.warning(request, f"Not saved: somebody deleted {identity} meanwhile. Undo that on the catalogue page to get it back.")
            return redirect("catalogue")
        except Refused as error:
            messages.warning(request, f"Not saved: {error}")
        else:
            if revision is not None:
                messages.success(request, f"{revision.summary}.", extra_tags=f"take-back:{revision.pk}")
            if not (form.errors or form.theirs or form.conflict_of_variants):
                return redirect("product", identity=identity)
        product = products_of([identity], hidden=True)[identity]
        return self.show(request, {"page": product_page(editing.the_setup(), product, form), "newest": newest()}, status=422)


class ProductDelete(OwnerView):
    """Deleting one product; it can be undone."""

    def post(self, request: HttpRequest, identity: str) -> HttpResponse:
        """Do it."""
        try:
            revision = revise(f"Deleted {identity}", {identity: None}, actor=request.user)
        except Refused as error:
            messages.warning(request, f"Not deleted: {error}")
            return redirect("product", identity=identity)
        if revision:
            messages.success(request, f"{revision.summary}.", extra_tags=f"take-back:{revision.pk}")
        return redirect("catalogue")


class ProductNew(OwnerView):
    """A new product: its name and number, then everything else on its page."""

    template = "workbench/product_new.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Ask for them."""
        return self.show(request, {"name": "", "number": "", "problem": ""})

    def post(self, request: HttpRequest) -> HttpResponse:
        """Make it."""
        name, number = request.POST.get("name", ""), request.POST.get("number", "")
        try:
            new_product(name, number, actor=request.user)
        except (BadValue, Refused) as error:
            return self.show(request, {"name": name, "number": number, "problem": str(error)}, status=422)
        return redirect("product", identity=number.strip())
