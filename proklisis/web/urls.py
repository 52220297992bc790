"""Addresses: the API, its schema, a health check, and the one page of the front end."""

from __future__ import annotations

import re

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.urls import include, path, re_path
from django.views.decorators.http import require_safe
from drf_spectacular.views import SpectacularAPIView
from rest_framework.routers import DefaultRouter

from proklisis.web.analysis.failed import FailuresView, FailureView
from proklisis.web.bench.clip_page import FootageView, PersonView
from proklisis.web.bench.disciplines import DisciplinesView, RopeView
from proklisis.web.bench.figures import FigureView
from proklisis.web.bench.ghost import GhostView
from proklisis.web.book.views import BookTableView, BookView, FollowingView, LedgerView
from proklisis.web.clips.letting_go import FilmsThatGoView
from proklisis.web.clips.tus import UploadsView, UploadView
from proklisis.web.clubbook import views as clubbook
from proklisis.web.clubs import done, joining, members
from proklisis.web.clubs.beginning import NewClubView
from proklisis.web.clubs.places import PlaceViewSet
from proklisis.web.clubs.qr import PictureOfSecretView
from proklisis.web.clubs.views import SessionView
from proklisis.web.desk import planning
from proklisis.web.desk.calendar import CalendarLinkView, CoachCalendarView
from proklisis.web.desk.draws import DrawsView
from proklisis.web.desk.groups import GroupsView
from proklisis.web.desk.many import ManyView
from proklisis.web.desk.views import RunViewSet
from proklisis.web.eye import views as eye
from proklisis.web.goes.views import SessionFilmViewSet
from proklisis.web.intake import sending
from proklisis.web.intake.pieces import SentClipsView, SentClipView
from proklisis.web.intake.views import IntakeViewSet, SenderViewSet
from proklisis.web.maps.views import MapView
from proklisis.web.mine import views as mine
from proklisis.web.mine.calendar import MyCalendarView, RiderCalendarView
from proklisis.web.mine.joining import MineJoinView, MineTakeView
from proklisis.web.pair.drawn import DrawnView
from proklisis.web.pair.films import PairFilmFileView, PairFilmsView, PairFilmView
from proklisis.web.pair.told import TellingPairView
from proklisis.web.pair.views import AgainstView, CurvesView, PairView
from proklisis.web.reckoner.views import (
    CalculatorsView,
    FromRunView,
    KeptReckoningViewSet,
    ReckonView,
)
from proklisis.web.references.views import ReferenceViewSet
from proklisis.web.riders import accounts
from proklisis.web.riders.views import RiderViewSet
from proklisis.web.scripts import leaving, shared
from proklisis.web.scripts import views as scripts
from proklisis.web.scripts.clips_back import ClipBackView, ClipsBackView
from proklisis.web.scripts.first_view import first_view
from proklisis.web.scripts.lesson import LessonView
from proklisis.web.scripts.numbers import NumbersView
from proklisis.web.scripts.texts import ClubTextViewSet
from proklisis.web.scripts.together import TogetherView
from proklisis.web.telling import views as telling
from proklisis.web.turnsheet.views import CropView, TurnSheetTableView, TurnSheetView
from proklisis.web.watching.figures import figures
from proklisis.web.watching.health import health, live

router = DefaultRouter(trailing_slash=False)
router.include_root_view = False
router.register("riders", RiderViewSet)
router.register("runs", RunViewSet)
router.register("references", ReferenceViewSet)
router.register("texts", ClubTextViewSet)
router.register("reckonings", KeptReckoningViewSet)
router.register("session-films", SessionFilmViewSet)
router.register("intakes", IntakeViewSet)
router.register("senders", SenderViewSet)
router.register("places", PlaceViewSet)


#: What riders open: an answer, a link to send clips by, a sender's page, and their own.
RIDERS = ("/s/", "/send/", "/sent/", "/mine")
#: Address of a rider's page.
SHARED = re.compile(r"^/s/([\w-]{16,60})/?$", re.ASCII)


@require_safe
def page(request: HttpRequest) -> HttpResponseBase:
    """The front end; its own router knows the address. Styles that its parts add carry this answer's own mark."""
    # What riders open is a small page of its own: it is read on phones over poor lines.
    index = settings.FRONTEND / ("rider.html" if request.path.startswith(RIDERS) else "index.html")
    if not index.exists():
        return HttpResponse(
            "The front end is not built. Run ./start.", status=503, content_type="text/plain"
        )
    text = index.read_text("utf-8").replace("%NONCE%", request.csp_nonce)  # type: ignore[attr-defined]
    if found := SHARED.match(request.path):
        # What the page will ask for comes beside its scripts, and not after them.
        first = f'<link rel="preload" href="/api/shared/{found[1]}" as="fetch" crossorigin />'
        text = text.replace("</head>", f"{first}</head>", 1)
        text = text.replace('<div id="root">', f'{first_view(found[1])}<div id="root">', 1)
    answer = HttpResponse(text)
    answer["Cache-Control"] = "no-cache"
    return answer


api = [
    path("session", SessionView.as_view()),
    path("new-club", NewClubView.as_view()),
    path("account/secret-picture", PictureOfSecretView.as_view()),
    path("club", members.ClubView.as_view()),
    path("club/members/<int:member>", members.MemberView.as_view()),
    path("club/members/<int:member>/new-password", members.NewPasswordView.as_view()),
    path("club/settings", members.ClubSettingsView.as_view()),
    path("club/films", FilmsThatGoView.as_view()),
    path("club/invitations", members.InvitationsView.as_view()),
    path("club/invitations/<int:invitation>", members.InvitationView.as_view()),
    path("club/book/<slug:discipline>", clubbook.ClubBookView.as_view()),
    path("club/book/<slug:discipline>/draft", clubbook.ClubBookDraftView.as_view()),
    path("club/book/<slug:discipline>/effect", clubbook.ClubBookEffectView.as_view()),
    path("club/book/<slug:discipline>/switch", clubbook.ClubBookSwitchView.as_view()),
    path("club/done", done.DoneView.as_view()),
    path("club/failures", FailuresView.as_view()),
    path("club/failures/<int:failure>", FailureView.as_view()),
    path("invitations/<str:token>", joining.JoinView.as_view()),
    path("runs/<int:run>/footage", FootageView.as_view()),
    path("runs/<int:run>/person", PersonView.as_view()),
    path("uploads", UploadsView.as_view()),
    path("uploads/<str:pk>", UploadView.as_view()),
    path("pair", PairView.as_view()),
    path("pair/curves", CurvesView.as_view()),
    path("pair/films", PairFilmsView.as_view()),
    path("pair/films/<int:film>", PairFilmView.as_view()),
    path("pair/films/<int:film>/file", PairFilmFileView.as_view()),
    path("runs/<int:run>/against", AgainstView.as_view()),
    path("runs/<int:run>/drawn", DrawnView.as_view()),
    path("runs/<int:run>/turn-sheet", TurnSheetView.as_view()),
    path("runs/<int:run>/turn-sheet/table", TurnSheetTableView.as_view()),
    path("runs/<int:run>/map", MapView.as_view()),
    path("runs/<int:run>/following", FollowingView.as_view()),
    path("runs/<int:run>/telling", telling.TellingView.as_view()),
    path("runs/<int:run>/telling/from", telling.FromView.as_view()),
    path("runs/<int:run>/telling/pair", TellingPairView.as_view()),
    path("runs/<int:run>/telling/captions", telling.CaptionsView.as_view()),
    path("runs/<int:run>/telling/still", telling.StillView.as_view()),
    path("runs/<int:run>/telling/angle", telling.AngleView.as_view()),
    path("runs/<int:run>/telling/recordings", telling.RecordingsView.as_view()),
    path("runs/<int:run>/telling/recordings/<int:recording>", telling.RecordingView.as_view()),
    path("runs/<int:run>/telling/recordings/<int:recording>/speech", telling.SpeechView.as_view()),
    path("runs/<int:run>/telling/films", telling.ToldFilmsView.as_view()),
    path("runs/<int:run>/telling/films/<int:film>", telling.ToldFilmView.as_view()),
    path("runs/<int:run>/telling/films/<int:film>/file", telling.ToldFilmFileView.as_view()),
    path("riders/<int:rider>/people", accounts.RidersPeopleView.as_view()),
    path("riders/<int:rider>/people/<int:account>", accounts.RidersPersonView.as_view()),
    path(
        "riders/<int:rider>/invitations/<int:invitation>", accounts.RidersInvitationView.as_view()
    ),
    path("mine", mine.MineView.as_view()),
    path("mine/<int:rider>", mine.MyRiderView.as_view()),
    path("mine/<int:rider>/answers", mine.MyAnswersView.as_view()),
    path("mine/<int:rider>/agreed", mine.MyAgreedView.as_view()),
    path("mine/<int:rider>/file", mine.MyFileView.as_view()),
    path("mine/<int:rider>/calendar", MyCalendarView.as_view()),
    path("calendar/riders/<str:token>.ics", RiderCalendarView.as_view()),
    path("mine/<int:rider>/erasing", mine.MyErasingView.as_view()),
    path("mine/invitations/<str:token>", MineJoinView.as_view()),
    path("mine/invitations/<str:token>/take", MineTakeView.as_view()),
    path("riders/<int:rider>/book", BookView.as_view()),
    path("riders/<int:rider>/book/table", BookTableView.as_view()),
    path("reckoner", CalculatorsView.as_view()),
    path("reckoner/<slug:name>", ReckonView.as_view()),
    path("reckoner/<slug:name>/from/<int:run>", FromRunView.as_view()),
    path("eye/next", eye.NextView.as_view()),
    path("eye/items/<int:item>/pictures/<int:number>", eye.PictureView.as_view()),
    path("eye/items/<int:item>/answer", eye.AnswerView.as_view()),
    path("eye/profile", eye.ProfileView.as_view()),
    path("eye/hints", eye.HintsView.as_view()),
    path("cues", LedgerView.as_view()),
    path("runs/<int:run>/ghost", GhostView.as_view()),
    path("runs/<int:run>/crops/<int:crop>", CropView.as_view()),
    path("disciplines", DisciplinesView.as_view()),
    path("figures/<slug:discipline>/<slug:fault>", FigureView.as_view()),
    path("rope", RopeView.as_view()),
    path("runs/<int:run>/script", scripts.ScriptView.as_view()),
    path("runs/<int:run>/script/offered", scripts.OfferedView.as_view()),
    path("runs/<int:run>/script/chosen", scripts.ChosenView.as_view()),
    path("runs/<int:run>/script/approve", scripts.ApproveView.as_view()),
    path("runs/<int:run>/script/mail", leaving.MailView.as_view()),
    path("runs/<int:run>/script/share", leaving.ShareView.as_view()),
    path("runs/<int:run>/script/pictures/<int:order>", leaving.ScriptPictureView.as_view()),
    path("runs/<int:run>/script/preview", leaving.PreviewView.as_view()),
    path("runs/<int:run>/script/paper", leaving.PaperView.as_view()),
    path("runs/<int:run>/script/numbers", NumbersView.as_view()),
    path("runs/<int:run>/script/lessons/<slug:fault>", leaving.ScriptLessonView.as_view()),
    path("runs/<int:run>/script/calendar", leaving.CalendarView.as_view()),
    path("runs/<int:run>/script/film", leaving.ScriptFilmView.as_view()),
    path("runs/<int:run>/script/captions", leaving.ScriptCaptionsView.as_view()),
    path("desk", planning.DeskView.as_view()),
    path("desk/news", planning.NewsView.as_view()),
    path("desk/week", planning.WeekView.as_view()),
    path("desk/many", ManyView.as_view()),
    path("desk/groups", GroupsView.as_view()),
    path("desk/calendar", CalendarLinkView.as_view()),
    path("calendar/<str:token>.ics", CoachCalendarView.as_view()),
    path("draws", DrawsView.as_view()),
    path("together", TogetherView.as_view()),
    path("lessons/<slug:discipline>/<slug:fault>", LessonView.as_view()),
    path("shared/<str:token>", shared.SharedView.as_view()),
    path("shared/<str:token>/pictures/<int:order>", shared.SharedPictureView.as_view()),
    path("shared/<str:token>/film", shared.SharedFilmView.as_view()),
    path("shared/<str:token>/captions", shared.SharedCaptionsView.as_view()),
    path("shared/<str:token>/paper", shared.SharedPaperView.as_view()),
    path("shared/<str:token>/lessons/<slug:fault>", shared.SharedLessonView.as_view()),
    path("shared/<str:token>/clips", ClipsBackView.as_view()),
    path("shared/<str:token>/clips/<str:pk>", ClipBackView.as_view()),
    path("shared/<str:token>/calendar", shared.SharedCalendarView.as_view()),
    path("shared/<str:token>/ticks", shared.SharedTicksView.as_view()),
    path("shared/<str:token>/lines", shared.SharedLinesView.as_view()),
    path("asked/<str:token>", sending.IntakeLinkView.as_view()),
    path("sent/<str:token>", sending.SendersPageView.as_view()),
    path("sent/<str:token>/taken-back/<int:sent>", sending.SentView.as_view()),
    path("sent/<str:token>/clips", SentClipsView.as_view()),
    path("sent/<str:token>/clips/<str:pk>", SentClipView.as_view()),
    path("schema", SpectacularAPIView.as_view(), name="schema"),
    *router.urls,
]
handler404 = "proklisis.web.errors.not_found"
handler500 = "proklisis.web.errors.our_fault"
urlpatterns = [
    path("livez", live),
    path("healthz", health),
    path("metrics", figures),
    path("api/", include(api)),
    path("_allauth/", include("allauth.headless.urls")),
    re_path(r"^(?!api/|_allauth/|static/|assets/).*$", page),
]
