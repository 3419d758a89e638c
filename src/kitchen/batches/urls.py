"""Batches."""

from django.urls import path

from . import views

app_name = "batches"

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("new/", views.desk, name="desk"),
    path("new/out/", views.out, name="out"),
    path("<uuid:pk>/", views.batch, name="batch"),
    path("<uuid:pk>/do/", views.act, name="act"),
    path("<uuid:pk>/label/", views.label, name="label"),
]
