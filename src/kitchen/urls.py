"""All URLs."""

from __future__ import annotations

from django.urls import include, path

from . import views
from .line import brine_cooks
from .search.views import search
from .today.views import counts, today

handler403 = "kitchen.errors.forbidden"
handler404 = "kitchen.errors.not_found"
handler500 = "kitchen.errors.server_error"

urlpatterns = [
    path("", today, name="home"),
    path("search/", search, name="search"),
    path("counts/", counts, name="counts"),
    path("", include("kitchen.health.urls")),
    path("sw.js", views.service_worker, name="service-worker"),
    path("manifest.webmanifest", views.manifest, name="manifest"),
    path("", include("kitchen.accounts.urls")),
    path("plans/", include("kitchen.plans.urls")),
    path("service/", include("kitchen.services.urls")),
    path("line/", include("kitchen.line.urls")),
    path("batches/", include("kitchen.batches.urls")),
    path("brines/", include("kitchen.brines.urls")),
    path("brines/<uuid:pk>/start/", brine_cooks.start, name="start-brine"),
    path("brines/label/<uuid:pk>/", brine_cooks.label, name="brine-label"),
    path("store/brines/", brine_cooks.in_progress, name="brines-in-progress"),
    path("eggs/", include("kitchen.eggs.urls")),
    path("log/", include("kitchen.logbook.urls")),
    path("book/", include("kitchen.book.urls")),
    path("practice/", include("kitchen.practice.urls")),
    path("faces/", include("kitchen.faces.urls")),
    path("learned/", include("kitchen.learning.urls")),
    path("", include("kitchen.kit.urls")),
    path("", include("kitchen.readings.urls")),
    path("", include("kitchen.standards.urls")),
    path("cuts/", include("kitchen.cuts.urls")),
    path("demo/", include("kitchen.demo.urls")),
    path("group/", include("kitchen.groups.urls")),
    path("set-up/", include("kitchen.setup.urls")),
]
