"""Batches."""

from django.urls import path

from . import desk_views, views

app_name = "batches"

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("new/", desk_views.desk, name="desk"),
    path("new/out/", desk_views.out, name="out"),
    path("new/of/<uuid:pk>/", desk_views.from_cook, name="from-cook"),
    path("<uuid:pk>/", views.batch, name="batch"),
    path("<uuid:pk>/do/", views.act, name="act"),
    path("<uuid:pk>/label/", views.label, name="label"),
]
