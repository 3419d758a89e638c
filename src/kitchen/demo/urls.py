"""The demonstration's own bar."""

from django.urls import path

from . import views

app_name = "demo"

urlpatterns = [
    path("pace/", views.pace, name="pace"),
    path("again/", views.again, name="again"),
]
