"""The log."""

from django.urls import path

from . import signing_views, views

app_name = "logbook"

urlpatterns = [
    path("", views.log, name="log"),
    path("sign/", signing_views.sign_several, name="sign-several"),
    path("<uuid:pk>/", views.record, name="record"),
    path("<uuid:pk>/correct/", views.correct, name="correct"),
    path("<uuid:pk>/sign/", views.sign, name="sign"),
    path("<uuid:pk>/readings.csv", views.readings_csv, name="readings-csv"),
]
