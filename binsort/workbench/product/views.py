"""The pages of one product."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.entry import BadValue
from binsort.catalog.store.product_rows import products_of
from binsort.changes.locks import Refused
from binsort.changes.new_values import NewValues
from binsort.changes.product_form import read_product_form, save_product
from binsort.changes.product_writes import NewCategories
from binsort.changes.products import Gone, delete_many, new_product
from binsort.racks.setup import the_setup
from binsort.workbench.frame.messages import undo_state
from binsort.workbench.frame.views import CatalogueView

from .page import product_page


class ProductPage(CatalogueView):
    """Everything of a product, to be edited."""

    template = "workbench/product/product.html"

    def get(self, request: HttpRequest, identity: str) -> HttpResponse:
        """Show it."""
        product = products_of([identity], hidden=True).get(identity)
        if product is None:
            raise Http404("There is no such product.")
        setup = the_setup()
        return self.show(request, {"setup": setup, "page": product_page(setup, product), **undo_state()})

    def post(self, request: HttpRequest, identity: str) -> HttpResponse:
        """Keep what was typed, or show beside it what is wrong."""
        form, revision = read_product_form(request.POST), None
        try:
            revision = save_product(identity, form, actor=request.user)
        except NewCategories as question:
            form.new_categories = question.paths
        except NewValues as question:
            form.new_values = question.values
        except Gone:
            messages.warning(
                request,
                _("Not saved: somebody deleted %(identity)s meanwhile. Undo that on the catalogue page to get it back.")
                % {"identity": identity},
            )
            return redirect("catalogue")
        except Refused as error:
            messages.warning(request, _("Not saved: %(error)s") % {"error": error})
        else:
            if revision is not None:
                messages.success(request, f"{revision.summary}.", extra_tags=f"take-back:{revision.pk}")
            if not form.is_open:
                return redirect("product", identity=identity)
        product = products_of([identity], hidden=True)[identity]
        return self.show(request, {"page": product_page(the_setup(), product, form), **undo_state()}, status=422)


class ProductDelete(CatalogueView):
    """Deleting one product; it can be undone."""

    def post(self, request: HttpRequest, identity: str) -> HttpResponse:
        """Do it."""
        try:
            revision = delete_many([identity], actor=request.user)
        except Refused as error:
            messages.warning(request, _("Not deleted: %(error)s") % {"error": error})
            return redirect("product", identity=identity)
        if revision:
            messages.success(request, f"{revision.summary}.", extra_tags=f"take-back:{revision.pk}")
        return redirect("catalogue")


class ProductNew(CatalogueView):
    """A new product: its name and number, then everything else on its page."""

    template = "workbench/product/product_new.html"

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
