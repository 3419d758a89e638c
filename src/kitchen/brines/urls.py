"""The brine desk."""

from django.urls import path

from . import views

app_name = "brines"

urlpatterns = [
    path("", views.desk, name="desk"),
    path("keep/", views.keep, name="keep"),
    path("<uuid:pk>/", views.kept, name="kept"),
    path("<uuid:pk>/ask/", views.ask, name="ask"),
    path("<uuid:pk>/confirm/", views.confirm, name="confirm"),
    path("<uuid:pk>/away/", views.put_away, name="put-away"),
    path("<uuid:pk>/back/", views.put_back, name="put-back"),
]
