"""The book."""

from django.urls import path

from . import views

app_name = "book"

urlpatterns = [
    path("", views.book, name="book"),
    path("write/<str:kind>/", views.write, name="write"),
    path("chain.jsonl", views.chain, name="chain"),
    path("check_chain.py", views.script, name="script"),
    path("add/<uuid:pk>/", views.add, name="add"),
]
