"""A kitchen's group, and the pages across its kitchens."""

from django.urls import path

from . import across_views, views

app_name = "groups"

urlpatterns = [
    path("", views.group, name="group"),
    path("begin/", views.begin, name="begin"),
    path("join/", views.join, name="join"),
    path("leave/", views.leave, name="leave"),
    path("code/", views.make_code, name="code"),
    path("roles/", views.give_role, name="give-role"),
    path("roles/<int:pk>/end/", views.end_role, name="end-role"),
    path("share/", views.share, name="share"),
    path("shared/<uuid:pk>/withdraw/", views.withdraw, name="withdraw"),
    path("shared/<uuid:pk>/take/", views.take, name="take"),
    path("kitchens/", across_views.across, name="across"),
    path("kitchens/<int:pk>/", across_views.kitchen, name="kitchen"),
    path("kitchens.csv", across_views.as_csv, name="csv"),
    path("kitchens.pdf", across_views.as_pdf, name="pdf"),
]
