"""Addresses of the owner's tool: each page brings its own."""

from django.urls import include, path

PAGES = (
    "rack", "rules", "behaves", "review", "history", "people", "setup_file", "all_racks", "placing",
    "add", "components", "jump", "facet", "activity", "sheet", "product", "attributes", "categories", "files", "tokens", "sites",
    "start", "face", "theme", "checkup", "footfall", "why", "what_if",
)  # fmt: skip

urlpatterns = [path("", include(f"binsort.workbench.{page}.urls")) for page in PAGES]
