"""Equipment, probes and devices."""

from django.urls import path

from . import device_views, views

app_name = "kit"

urlpatterns = [
    path("kitchen/equipment/", views.kit, name="kit"),
    path("kitchen/equipment/new/", views.equipment, name="new-equipment"),
    path("kitchen/equipment/<int:pk>/", views.equipment, name="equipment"),
    path("kitchen/equipment/<int:pk>/remove/", views.remove, name="remove"),
    path("kitchen/equipment/<int:pk>/restore/", views.restore, name="restore"),
    path("kitchen/equipment/<int:pk>/check/", views.check_equipment, name="check-equipment"),
    path("kitchen/equipment/probes/<int:pk>/check/", views.check_probe, name="check-probe"),
    path("kitchen/equipment/probes/<int:pk>/fix/", views.fix_probe, name="fix-probe"),
    path("kitchen/equipment/altitude/", views.altitude, name="altitude"),
    path("kitchen/devices/", device_views.devices, name="devices"),
    path("kitchen/devices/new/", device_views.add, name="add-device"),
    path("kitchen/devices/<int:pk>/revoke/", device_views.revoke, name="revoke"),
]
