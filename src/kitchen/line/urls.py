"""The line."""

from django.urls import path

from . import pan_views, step_views, views

app_name = "line"

urlpatterns = [
    path("", views.board, name="board"),
    path("<uuid:pk>/do/", views.do, name="do"),
    path("<uuid:pk>/undo/", views.undo, name="undo"),
    path("<uuid:pk>/tell/", views.tell, name="tell"),
    path("<uuid:pk>/reading/", views.reading, name="reading"),
    path("<uuid:pk>/check/", views.check, name="check"),
    path("<uuid:pk>/readings/", views.upload, name="upload"),
    path("<uuid:pk>/pan/<int:stage>/", pan_views.pan, name="pan"),
    path("<uuid:pk>/pan/<int:stage>/tap/", pan_views.tap, name="pan-tap"),
    path("<uuid:pk>/place/", views.place, name="place"),
    path("<uuid:pk>/steps/", step_views.steps, name="steps"),
    path("<uuid:pk>/steps/act/", step_views.act, name="steps-act"),
    path("<uuid:pk>/stop/", views.stop, name="stop"),
]
