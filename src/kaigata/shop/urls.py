"""Addresses: the interface under ``/api/``, everything else is the page."""

from django.http import FileResponse, HttpRequest, HttpResponse
from django.urls import path, re_path
from drf_spectacular.views import SpectacularAPIView

from kaigata.shop import problems, settings
from kaigata.shop.api import (
    assemblies,
    checks,
    drawings,
    machines,
    measured,
    meshes,
    nests,
    orders,
    parts,
    people,
    pressings,
    racks,
    recipes,
    runs,
    signing_in,
    stores,
)


def page(request: HttpRequest) -> HttpResponse | FileResponse:
    """Give the page for every address of its own, so that a reload finds it."""
    index = settings.WEB_DIST / "index.html"
    if request.path.startswith("/api/") or not index.is_file():
        return problems.not_found(request)
    response = FileResponse(index.open("rb"), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [
    path("api/schema", SpectacularAPIView.as_view()),
    path("api/session", signing_in.SessionView.as_view()),
    path("api/orders", orders.OrdersView.as_view()),
    path("api/orders/<int:order>", orders.OrderView.as_view()),
    path("api/orders/<int:order>/gauges", orders.GaugesView.as_view()),
    path("api/orders/<int:order>/lines", racks.LinesView.as_view()),
    path("api/orders/<int:order>/rack", racks.RackView.as_view()),
    path("api/orders/<int:order>/files", racks.FilesView.as_view()),
    path("api/orders/<int:order>/archives", racks.ArchivesView.as_view()),
    path("api/orders/<int:order>/recipes", recipes.StarterView.as_view()),
    path("api/orders/<int:order>/results", racks.ResultsView.as_view()),
    path("api/orders/<int:order>/stamps", orders.StampView.as_view()),
    path("api/orders/<int:order>/nest", nests.NestView.as_view()),
    path("api/orders/<int:order>/nest/stop", nests.NestStopView.as_view()),
    path("api/orders/<int:order>/nest/go-on", nests.NestGoOnView.as_view()),
    path("api/orders/<int:order>/cut", runs.CutView.as_view()),
    path("api/orders/<int:order>/cut/by-hand", runs.CutHandView.as_view()),
    path("api/orders/<int:order>/cut/compare", runs.CutCompareView.as_view()),
    path("api/orders/<int:order>/packet", runs.PacketView.as_view()),
    path("api/orders/<int:order>/checks", checks.ChecksView.as_view()),
    path("api/orders/<int:order>/checks/<slug:name>", checks.CheckView.as_view()),
    path("api/lines/<int:line>", racks.LineView.as_view()),
    path("api/lines/<int:line>/sets", racks.SetsView.as_view()),
    path("api/lines/<int:line>/assembly", assemblies.AssemblyView.as_view()),
    path("api/assemblies/<int:drawing>/pdf", assemblies.AssemblyPdfView.as_view()),
    path(
        "api/assemblies/<int:drawing>/<int:sheet>/<slug:kind>",
        assemblies.AssemblySheetView.as_view(),
    ),
    path("api/parts/<int:part>/blank", parts.BlankView.as_view()),
    path("api/parts/<int:part>/mesh", meshes.MeshView.as_view()),
    path("api/parts/<int:part>/shell", parts.ShellView.as_view()),
    path("api/parts/<int:part>/given", parts.GivenView.as_view()),
    path("api/parts/<int:part>/recipe", recipes.RecipeView.as_view()),
    path("api/parts/<int:part>/recipe/block", recipes.BlockView.as_view()),
    path("api/parts/<int:part>/recipe/nets", recipes.NetsView.as_view()),
    path("api/parts/<int:part>/recipe/file", recipes.RecipeFileView.as_view()),
    path("api/parts/<int:part>/revision", parts.RevisionView.as_view()),
    path("api/parts/<int:part>/twin", parts.TwinView.as_view()),
    path("api/parts/<int:part>/files/<str:kind>", parts.BlankFileView.as_view()),
    path("api/parts/<int:part>/drawing", drawings.DrawingView.as_view()),
    path("api/parts/<int:part>/sheets", drawings.SheetsView.as_view()),
    path("api/parts/<int:part>/sheets/<int:sheet>/<slug:kind>", drawings.SheetFileView.as_view()),
    path("api/parts/<int:part>/template", drawings.TemplateView.as_view()),
    path("api/nests/<int:nest>/sheets", nests.NestSheetsView.as_view()),
    path("api/nests/<int:nest>/release", nests.NestReleaseView.as_view()),
    path("api/nests/<int:nest>/files/<str:name>", nests.NestFileView.as_view()),
    path("api/programs/<int:program>/files/<str:kind>", runs.ProgramFileView.as_view()),
    path("api/packets/<int:packet>/zip", runs.PacketFileView.as_view()),
    path("api/recipes", recipes.StartersView.as_view()),
    path("api/people", people.PeopleView.as_view()),
    path("api/people/<int:person>", people.PersonView.as_view()),
    path("api/trail", people.TrailView.as_view()),
    path("api/find", orders.FindView.as_view()),
    path("api/stores", stores.StoresView.as_view()),
    path("api/stores/gauges/<int:gauge>", stores.GaugeView.as_view()),
    path("api/stores/gauges/<int:gauge>/measured", measured.MeasuredBendsView.as_view()),
    path("api/stores/cut-rows/<int:row>/measured", measured.MeasuredSizesView.as_view()),
    path("api/stores/cut-rows/<int:row>/kerf", measured.MeasuredKerfView.as_view()),
    path("api/stores/lettering", stores.LetteringView.as_view()),
    path("api/stores/limits", stores.LimitsView.as_view()),
    path("api/stores/tables/<slug:name>", stores.TableView.as_view()),
    path("api/stores/sheets", stores.SheetsView.as_view()),
    path("api/stores/sheets/<int:sheet>", stores.SheetView.as_view()),
    path("api/stores/posts", machines.PostsView.as_view()),
    path("api/stores/posts/<slug:name>", machines.PostView.as_view()),
    path("api/stores/pressings", pressings.PressingsView.as_view()),
    path("api/stores/pressings/<int:pressing>", pressings.PressingView.as_view()),
    path("api/stores/machines", machines.MachinesView.as_view()),
    path("api/stores/machines/<int:machine>", machines.MachineView.as_view()),
    re_path(r"^.*$", page),
]

handler404 = "kaigata.shop.problems.not_found"
handler500 = "kaigata.shop.problems.server_error"
