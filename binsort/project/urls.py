"""Addresses: the shop is open, everything else belongs to the shop's own people."""

from django.contrib.auth.views import LogoutView
from django.urls import include, path
from django.views.generic import RedirectView

from binsort.shopfront.api.endpoints import api as shop_api
from binsort.shopfront.embed.views import bins
from binsort.shopfront.urls import of_the_site
from binsort.workbench.api.endpoints import api
from binsort.workbench.sign_in import SignIn

handler400 = "binsort.project.errors.bad_request"
handler403 = "binsort.workbench.frame.views.not_allowed"
handler404 = "binsort.project.errors.not_found"
handler500 = "binsort.project.errors.trouble"

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="rack"), name="home"),
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("", include("binsort.workbench.urls")),
    path("api/v1/", api.urls),
    path("api/shop/v1/", shop_api.urls),
    path("shop/", include("binsort.shopfront.urls")),
    path("", include(of_the_site)),
    path("bins.js", bins, name="bins"),
    path("pictures/", include("binsort.demo.urls")),
]
