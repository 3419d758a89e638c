"""The book."""

from django.urls import path

from . import report_views, views

app_name = "book"

urlpatterns = [
    path("", views.book, name="book"),
    path("write/<str:kind>/", views.write, name="write"),
    path("report/", report_views.report, name="report"),
    path("report.pdf", report_views.report_pdf, name="report-pdf"),
    path("report.csv", report_views.report_csv, name="report-csv"),
    path("report.json", report_views.report_json, name="report-json"),
    path("chain.jsonl", views.chain, name="chain"),
    path("everything.zip", views.everything, name="everything"),
    path("check_chain.py", views.script, name="script"),
    path("add/<uuid:pk>/", views.add, name="add"),
]
