"""Plans."""

from django.urls import path

from . import views

app_name = "plans"

urlpatterns = [
    path("", views.plan_list, name="list"),
    path("new/", views.new, name="new"),
    path("bench/", views.bench, name="bench"),
    path("import/", views.import_plan, name="import"),
    path("<uuid:pk>/", views.edit, name="edit"),
    path("<uuid:pk>/copy/", views.copy, name="copy"),
    path("<uuid:pk>/delete/", views.delete, name="delete"),
    path("<uuid:pk>/restore/", views.restore, name="restore"),
    path("<uuid:pk>/card/", views.card, name="card"),
    path("<uuid:pk>/export/", views.export, name="export"),
]
