"""Devices, and the API they speak."""

from django.urls import path

from . import api, views

app_name = "kit"

urlpatterns = [
    path("more/kit/", views.kit, name="kit"),
    path("more/kit/new/", views.equipment, name="new-equipment"),
    path("more/kit/<int:pk>/", views.equipment, name="equipment"),
    path("more/kit/<int:pk>/remove/", views.remove, name="remove"),
    path("more/kit/<int:pk>/restore/", views.restore, name="restore"),
    path("more/kit/<int:pk>/check/", views.check_equipment, name="check-equipment"),
    path("more/kit/probes/<int:pk>/check/", views.check_probe, name="check-probe"),
    path("more/kit/probes/<int:pk>/fix/", views.fix_probe, name="fix-probe"),
    path("more/api/", views.api_page, name="api"),
    path("api/v1/openapi.json", views.api_json, name="openapi"),
    path("more/kit/altitude/", views.altitude, name="altitude"),
    path("more/devices/", views.add_device, name="add-device"),
    path("more/devices/<int:pk>/revoke/", views.revoke, name="revoke"),
    path("api/v1/readings", api.readings, name="api-readings"),
    path("api/v1/clock", api.clock, name="api-clock"),
    path("api/v1/cooks", api.cooks, name="api-cooks"),
]
