"""Calibration from finished cooks."""

from django.urls import path

from . import views

app_name = "learning"

urlpatterns = [
    path("", views.learned, name="learned"),
    path("look/", views.look, name="look"),
    path("<uuid:pk>/stop/", views.stop, name="stop"),
    path("<uuid:pk>/accept/", views.accept, name="accept"),
    path("<int:pk>/undo/", views.undo, name="undo"),
]
