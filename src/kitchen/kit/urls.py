"""Equipment, probes and devices."""

from django.urls import path

from . import views

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
    path("more/kit/altitude/", views.altitude, name="altitude"),
    path("more/devices/", views.add_device, name="add-device"),
    path("more/devices/<int:pk>/revoke/", views.revoke, name="revoke"),
]
