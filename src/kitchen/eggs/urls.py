"""The egg bench."""

from django.urls import path

from . import views

app_name = "eggs"

urlpatterns = [
    path("", views.first, name="first"),
    path("kinds/", views.equivalents_page, name="kinds"),
    path("kept/<uuid:pk>/", views.kept, name="kept"),
    path("kept/<uuid:pk>/away/", views.put_away, name="put-away"),
    path("kept/<uuid:pk>/back/", views.put_back, name="put-back"),
    path("<str:method>/", views.bench, name="bench"),
    path("<str:method>/aside/", views.aside, name="aside"),
    path("<str:method>/send/", views.send, name="send"),
    path("<str:method>/keep/", views.keep, name="keep"),
]
