"""Devices, and the API they speak."""

from django.urls import path

from . import api, views

app_name = "kit"

urlpatterns = [
    path("more/devices/", views.add_device, name="add-device"),
    path("more/devices/<int:pk>/revoke/", views.revoke, name="revoke"),
    path("api/v1/readings", api.readings, name="api-readings"),
    path("api/v1/clock", api.clock, name="api-clock"),
    path("api/v1/cooks", api.cooks, name="api-cooks"),
]
