"""Photographs of cut faces."""

from django.urls import path

from . import face_views, framing_views, taking_views

app_name = "faces"

urlpatterns = [
    path("", taking_views.faces, name="faces"),
    path("new/", taking_views.new, name="new"),
    path("take/", taking_views.take, name="take"),
    path("known/", taking_views.known, name="known"),
    path("study/", face_views.study, name="study"),
    path("study.csv", face_views.study_csv, name="study-csv"),
    path("<uuid:pk>/", face_views.face, name="face"),
    path("<uuid:pk>/photo.jpg", taking_views.picture, name="photo"),
    path("<uuid:pk>/face-<int:number>.jpg", face_views.upright_photo, name="upright"),
    path("<uuid:pk>/frame/", framing_views.frame, name="frame"),
    path("<uuid:pk>/proposal/", framing_views.proposal, name="proposal"),
    path("<uuid:pk>/measure/", framing_views.measure, name="measure"),
    path("<uuid:pk>/ruler/", face_views.ruler, name="ruler"),
    path("<uuid:pk>/remove/", taking_views.remove, name="remove"),
]
