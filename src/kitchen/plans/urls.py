"""Plans."""

from django.urls import path

from . import choice_views, share_views, views

app_name = "plans"

urlpatterns = [
    path("", views.plan_list, name="list"),
    path("new/", views.new, name="new"),
    path("bench/", views.bench, name="bench"),
    path("bench/cuts/", views.find_cuts, name="find-cuts"),
    path("bench/prices/", choice_views.price_list, name="prices"),
    path("bench/methods/", choice_views.method_list, name="methods"),
    path("bench/fit/", choice_views.fit_list, name="fit"),
    path("bench/compare/", choice_views.compare, name="compare"),
    path("import/", share_views.import_plan, name="import"),
    path("<uuid:pk>/", views.edit, name="edit"),
    path("<uuid:pk>/copy/", views.copy, name="copy"),
    path("<uuid:pk>/delete/", views.delete, name="delete"),
    path("<uuid:pk>/restore/", views.restore, name="restore"),
    path("<uuid:pk>/card/", share_views.card, name="card"),
    path("<uuid:pk>/card.pdf", share_views.card_pdf, name="card-pdf"),
    path("<uuid:pk>/versions/", share_views.versions, name="versions"),
    path("<uuid:pk>/versions/<int:number>/back/", share_views.bring_back, name="bring-back"),
    path("<uuid:pk>/export/", share_views.export, name="export"),
    path("<uuid:pk>/curves.csv", share_views.curves_csv, name="curves-csv"),
    path("<uuid:pk>/chart.svg", share_views.drawing_svg, {"what": "chart"}, name="chart-svg"),
    path("<uuid:pk>/face.svg", share_views.drawing_svg, {"what": "face"}, name="face-svg"),
]
