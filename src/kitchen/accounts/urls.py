"""Sign-in, one's own settings, people."""

from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from . import views
from .forms import SignInForm

app_name = "accounts"

urlpatterns = [
    path(
        "sign-in/",
        login_not_required(
            auth.LoginView.as_view(
                template_name="accounts/sign_in.html", authentication_form=SignInForm, redirect_authenticated_user=True
            )
        ),
        name="sign-in",
    ),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("more/", views.more, name="more"),
    path("more/people/", views.people, name="people"),
    path("more/people/<int:pk>/", views.change_role, name="change-role"),
]
