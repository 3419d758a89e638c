"""Services."""

from django.urls import path

from . import day_views, menu_views, paper_views, views

app_name = "services"

urlpatterns = [
    path("", views.services, name="list"),
    path("new/", menu_views.new, name="new"),
    path("<uuid:pk>/", views.service, name="service"),
    path("<uuid:pk>/plan/", views.work_out, name="plan"),
    path("<uuid:pk>/planning/", views.progress, name="planning"),
    path("<uuid:pk>/planning/stop/", views.stop, name="stop"),
    path("<uuid:pk>/take-back/", views.take_back, name="take-back"),
    path("<uuid:pk>/task/", views.choose, name="choose"),
    path("<uuid:pk>/late/", views.if_late, name="late"),
    path("<uuid:pk>/shares/", views.shares, name="shares"),
    path("<uuid:pk>/share/", views.share, name="share"),
    path("<uuid:pk>/way-out/", views.way_out, name="way-out"),
    path("<uuid:pk>/menu/", menu_views.menu, name="menu"),
    path("<uuid:pk>/menu/dish/", menu_views.add_dish, name="add-dish"),
    path("<uuid:pk>/menu/<uuid:dish>/", menu_views.change_dish, name="dish"),
    path("<uuid:pk>/menu/<uuid:dish>/remove/", menu_views.remove_dish, name="remove-dish"),
    path("<uuid:pk>/menu/<uuid:dish>/beside/", menu_views.add_beside, name="add-beside"),
    path("<uuid:pk>/menu/<uuid:dish>/beside/<str:key>/", menu_views.remove_beside, name="remove-beside"),
    path("<uuid:pk>/away/", menu_views.put_away, name="put-away"),
    path("<uuid:pk>/back/", menu_views.put_back, name="put-back"),
    path("<uuid:pk>/begin/", day_views.begin, name="begin"),
    path("<uuid:pk>/end/", day_views.end, name="end"),
    path("<uuid:pk>/tap/", day_views.tap, name="tap"),
    path("<uuid:pk>/replan/", day_views.replan, name="replan"),
    path("<uuid:pk>/watch/", day_views.watch, name="watch"),
    path("<uuid:pk>/answer/", day_views.answer, name="answer"),
    path("<uuid:pk>/list/", paper_views.lists, name="lists"),
    path("<uuid:pk>/tasks.ics", paper_views.calendar, name="calendar"),
]
