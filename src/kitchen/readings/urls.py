"""The readings API and its page."""

from django.urls import path

from . import api, views

app_name = "readings"

urlpatterns = [
    path("kitchen/devices/api/", views.api_page, name="page"),
    path("api/v1/openapi.json", views.api_json, name="openapi"),
    path("api/v1/readings", api.readings, name="readings"),
    path("api/v1/clock", api.clock, name="clock"),
    path("api/v1/cooks", api.cooks, name="cooks"),
]
