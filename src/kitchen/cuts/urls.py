"""The catalogue and own cuts."""

from django.urls import path

from . import views

app_name = "cuts"

urlpatterns = [
    path("", views.catalogue, name="catalogue"),
    path("own/new/", views.own, name="new"),
    path("own/<uuid:pk>/", views.own, name="own"),
    path("own/<uuid:pk>/remove/", views.remove, name="remove"),
    path("own/<uuid:pk>/restore/", views.restore, name="restore"),
]
