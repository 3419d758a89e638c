"""Standards, the lethality of a temperature, doneness."""

from django.urls import path

from . import views

app_name = "standards"

urlpatterns = [
    path("standards/", views.standard_page, name="mine"),
    path("standards/choose/", views.choose, name="choose"),
    path("standards/house/", views.house, name="house"),
    path("standards/kill/", views.kill, name="kill"),
    path("standards/<slug:standard_id>/", views.standard_page, name="standard"),
    path("doneness/", views.doneness, name="doneness"),
]
