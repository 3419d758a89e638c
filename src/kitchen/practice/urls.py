"""Practice: calls and drills."""

from django.urls import path

from . import call_views, drill_views

app_name = "practice"

urlpatterns = [
    path("", call_views.calls, name="calls"),
    path("call/<uuid:pk>/", call_views.call, name="call"),
    path("called/<int:pk>/", call_views.called, name="called"),
    path("called/<int:pk>/read/", call_views.read, name="read"),
    path("share/", call_views.share, name="share"),
    path("of/<int:pk>/", call_views.of_person, name="of-person"),
    path("drills/", drill_views.drills, name="drills"),
    path("drills/begin/", drill_views.begin, name="begin"),
    path("drills/<uuid:pk>/", drill_views.drill, name="drill"),
    path("drills/<uuid:pk>/act/", drill_views.act, name="act"),
    path("drills/<uuid:pk>/lay/", drill_views.lay, name="lay"),
]
