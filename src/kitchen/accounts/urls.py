"""Sign-in, one's own settings, people."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from . import views
from .signing_in import SignInView

app_name = "accounts"

urlpatterns = [
    path(
        "sign-in/",
        login_not_required(SignInView.as_view()),
        name="sign-in",
    ),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("more/", views.more, name="more"),
    path("more/people/", views.people, name="people"),
    path("more/people/<int:pk>/", views.change_role, name="change-role"),
]
