"""The book."""

from django.urls import path

from . import paper_views, report_views, trend_views, views

app_name = "book"

urlpatterns = [
    path("", views.book, name="book"),
    path("schedule/", views.add_scheduled, name="add-scheduled"),
    path("schedule/<int:pk>/end/", views.end_scheduled, name="end-scheduled"),
    path("write/<str:kind>/", views.write, name="write"),
    path("report/", report_views.report, name="report"),
    path("report.pdf", paper_views.ask, name="report-pdf"),
    path("report/paper/<uuid:pk>/", paper_views.paper, name="paper"),
    path("report/paper/<uuid:pk>/stop/", paper_views.stop, name="paper-stop"),
    path("report/paper/<uuid:pk>.pdf", paper_views.download, name="paper-pdf"),
    path("report/more/", report_views.more, name="report-more"),
    path("report.csv", report_views.report_csv, name="report-csv"),
    path("report.json", report_views.report_json, name="report-json"),
    path("trends/", trend_views.trends, name="trends"),
    path("who/", views.who, name="who"),
    path("keep/", views.keep, name="keep"),
    path("chain.jsonl", views.chain, name="chain"),
    path("everything.zip", views.everything, name="everything"),
    path("check_chain.py", views.script, name="script"),
    path("add/<uuid:pk>/", views.add, name="add"),
]
