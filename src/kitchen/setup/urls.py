"""The first chef's address."""

from django.urls import path

from . import views

app_name = "setup"

urlpatterns = [path("<str:secret>/", views.begin, name="begin")]
