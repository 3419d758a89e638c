"""Sign-in, one's own settings, people."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from . import password_views, people_views, tablet_views, views
from .signing_in import SignInView

app_name = "accounts"

urlpatterns = [
    path(
        "sign-in/",
        login_not_required(SignInView.as_view()),
        name="sign-in",
    ),
    path("names/", tablet_views.names, name="names"),
    path("names/<int:pk>/", tablet_views.pin, name="pin"),
    path("names/lock/", tablet_views.lock, name="lock"),
    path("kitchen/devices/tablets/", tablet_views.enrol, name="enrol-tablet"),
    path("kitchen/devices/tablets/<int:pk>/revoke/", tablet_views.revoke, name="revoke-tablet"),
    path("you/pin/", password_views.choose_pin, name="choose-pin"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("you/", views.you, name="you"),
    path("you/kitchen/", views.switch, name="switch"),
    path("kitchen/settings/", views.kitchen_settings, name="kitchen"),
    path("you/password/", password_views.change, name="password"),
    path("kitchen/people/", people_views.people, name="people"),
    path("kitchen/people/ask/", people_views.ask, name="ask"),
    path("kitchen/people/ask/<int:pk>/back/", people_views.ask_no_more, name="ask-no-more"),
    path("you/asked/<int:pk>/", views.answer, name="answer"),
    path("kitchen/people/<int:pk>/", people_views.change_role, name="change-role"),
    path("kitchen/people/<int:pk>/link/", people_views.make_link, name="password-link"),
    path("kitchen/people/<int:pk>/leave/", people_views.leave, name="leave"),
    path("kitchen/people/<int:pk>/return/", people_views.come_back, name="come-back"),
    path("password/<str:secret>/", password_views.choose, name="choose-password"),
]
