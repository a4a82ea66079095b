"""The window: path strip, plan sentence, the pages, and what has to be said."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, QCoreApplication, QEvent, QPoint, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QDialog, QMainWindow, QMenu, QWidget

from gorvel.core.table.file_kinds import kind_named
from gorvel.desk.controls.about import show_about
from gorvel.desk.controls.alarm import Alarm
from gorvel.desk.controls.arranging import fill, fill_row, in_row
from gorvel.desk.controls.following import WhenSeen
from gorvel.desk.controls.group_tabs import GroupTabs
from gorvel.desk.controls.growing import StuckBar
from gorvel.desk.controls.looks import apply_theme, dress_window
from gorvel.desk.controls.notice import Notice
from gorvel.desk.controls.path_strip import PathStrip, Stop
from gorvel.desk.controls.shortcuts import show_shortcuts
from gorvel.desk.controls.texts import button, mark_due, scrolled, text
from gorvel.desk.controls.work_bars import BusyBar
from gorvel.desk.editors.plan_sentence import PlanSentence
from gorvel.desk.pages.cases.page import CasesPage
from gorvel.desk.pages.compare.page import ComparePage
from gorvel.desk.pages.count.page import CountPage
from gorvel.desk.pages.memberships import MembershipsPage
from gorvel.desk.pages.plan import PlanPage
from gorvel.desk.pages.profiles.page import ProfilesPage
from gorvel.desk.pages.tree.page import TreePage
from gorvel.desk.pages.welcome import WelcomePage
from gorvel.desk.state.focus import Focus
from gorvel.desk.state.settings import SCALE_RANGE, Settings, save_settings
from gorvel.desk.views.cluster_strip import ClusterStrip
from gorvel.desk.views.layout import Layout
from gorvel.desk.window.commands import Command, add_keys, commands_of, made_menu
from gorvel.desk.window.dialogs import Dialogs
from gorvel.desk.window.icon import application_icon
from gorvel.desk.window.offers import Offers
from gorvel.desk.window.pages import (
    COMPARE,
    NAMES,
    PLAN,
    TREE,
    WITH_CLUSTERS,
    WITHOUT_GROWING,
    Pages,
)
from gorvel.desk.window.result_line import ResultLine
from gorvel.desk.window.shelf_panel import ShelfPanel
from gorvel.desk.window.stops import stops_of, title_of
from gorvel.desk.work.actions import Actions
from gorvel.desk.work.autosave import Autosave
from gorvel.desk.work.collecting import Collecting
from gorvel.desk.work.comparing import Comparing
from gorvel.desk.work.counting import Counting
from gorvel.desk.work.derived_variables import Turning
from gorvel.desk.work.faults import FAULTS
from gorvel.desk.work.imputation import Imputation
from gorvel.desk.work.jobs import JobKind
from gorvel.desk.work.moving import Moving
from gorvel.desk.work.profiling import Profiling
from gorvel.desk.work.replicating import Replicating
from gorvel.desk.work.sweeping import Sweeping
from gorvel.paint.charts.small_tree import as_png, small_tree
from gorvel.paint.theme import DARK, LIGHT, SPACE, current

_ARRIVAL = 20  # milliseconds until a new tree is turned to: a large one takes its time as it is
_NOTE_SHOWN = 8_000  # milliseconds that something is said beside the plan
_PICTURE = 220, 76  # pixels of the small picture of a study


class Window(QMainWindow):
    """One window on one study."""

    def __init__(self, settings: Settings, demo: Path) -> None:
        super().__init__()
        self.settings = settings
        self.focus = Focus(self)
        self.acts = Actions(self.focus, settings, self)
        self.turning = Turning(self.focus, self.acts.jobs, self)
        self.counting = Counting(self.focus, self.acts.jobs, self)
        self.profiling = Profiling(self.focus, self.acts.jobs, self)
        self.comparing = Comparing(self.focus, self.acts.jobs, self)
        self.imputation = Imputation(self.focus, self.acts.jobs, self)
        self.replicating = Replicating(self.focus, self.acts.jobs, self)
        self.moving = Moving(self.focus, self.acts.jobs, self)
        self.sweeping = Sweeping(self.focus, self.acts.jobs, self)
        self.acts.findings = Collecting(
            self.focus, self.counting, self.profiling, self.comparing, self.imputation,
            self.replicating, self.sweeping,
        ).findings  # fmt: skip
        self.shown = Layout(self.focus, self)
        self.keeper = Autosave(self.focus, self.acts.jobs, self)
        self._asks = True  # before unsaved work is left
        self.shelf_seen = False
        self.setWindowIcon(application_icon())
        self.setWindowTitle("Gorvel")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        if settings.geometry:
            self.restoreGeometry(QByteArray(bytes.fromhex(settings.geometry)))
        self._demo = demo
        self.dialogs = Dialogs(self.acts, self)
        dress_window(self)
        self._build()
        self._connect()
        self._show_path()

    # building

    def _build(self) -> None:
        """Make everything inside the window; done again when the looks change."""
        self.strip = PathStrip()
        self.sentence = PlanSentence(self.focus)
        self.note = text(soft=True, wrap=False)
        self._note_timer = QTimer(self.note, singleShot=True, interval=_NOTE_SHOWN)
        self._note_timer.timeout.connect(self.note.clear)
        self.result = ResultLine(self.focus, self.profiling, self.comparing)
        self.clusters = ClusterStrip(self.focus)
        self.alarm = Alarm(self.dialogs.mend_reading, self.dialogs.save_study)
        self.alarm_words = self.alarm.words
        self.notice = Notice()
        self.welcome = WelcomePage(self.acts, self.dialogs.open, self._demo)
        self.pages = Pages(self, self.welcome)
        self._lay_out()
        self.strip.chosen.connect(self.go_to)
        self.sentence.page_wanted.connect(lambda name: self.go_to(NAMES.index(name)))

    def _lay_out(self) -> None:
        ground = QWidget()
        self.top = QWidget()
        self.top.setAutoFillBackground(True)
        self.shelf_button = button("Shelf", self.toggle_shelf, tip="Show the kept trees (Ctrl+L)")
        self.menu_button = button(
            "Menu", self.open_menu, tip="Open, save, theme, keyboard shortcuts (Alt+M)"
        )
        fill_row(
            self.top, (self.strip, 1), self.shelf_button, self.menu_button, space=None,
            edges=(0, 0, 2 * SPACE, 0),
        )  # fmt: skip
        self.sentence_row = QWidget()
        self.grow_button = button("Grow the tree", self.grow, "main", "Ctrl+G")
        fill_row(
            self.sentence_row, (self.sentence, 1),
            (self.grow_button, 0, Qt.AlignmentFlag.AlignVCenter),
            (self.note, 0, Qt.AlignmentFlag.AlignVCenter), space=None,
            edges=(2 * SPACE, 0, 2 * SPACE, 0),
        )  # fmt: skip
        self.clusters_row = QWidget()
        fill_row(self.clusters_row, (self.clusters, 1), edges=(2 * SPACE, 0, 2 * SPACE, 0))
        self.stuck = StuckBar(self.acts, ground)
        self.stuck.plan_wanted.connect(lambda: self.go_to(PLAN))
        self.groups = GroupTabs(self.focus)
        self.shelf = ShelfPanel(self.comparing)
        self._place_shelf()
        self.room = scrolled(self.pages.ground)  # a window is never wider than its screen
        self.room.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        below = in_row(self.shelf, (self.room, 1), space=0)
        self.loading = text(soft=True, wrap=False)
        self.loading.setContentsMargins(2 * SPACE, 0, 0, SPACE // 2)
        self.loading.setAccessibleName("Preparation")
        self.loading.hide()
        fill(
            ground, self.top, self.clusters_row, self.sentence_row, self.result, self.stuck,
            self.alarm, self.notice, self.groups, BusyBar(self.acts), (below, 1), self.loading,
            space=6,
        )  # fmt: skip
        self.setCentralWidget(ground)
        theme = current()
        self.top.setObjectName("top")
        self.top.setStyleSheet(
            f"#top {{ background: {theme.panel}; border-bottom: 1px solid {theme.line}; }}"
        )

    def _connect(self) -> None:
        focus, actions = self.focus, self.acts
        actions.opened.connect(self._opened)
        actions.said.connect(self.say)
        self.keeper.said.connect(self.say)
        FAULTS.met.connect(self._met_fault)
        for failed in (focus.shelf.refused, self.counting.failed):
            failed.connect(lambda why: self.say(why, True))
        actions.loading.connect(self._tell_loading)
        actions.unreadable.connect(lambda *_: self.alarm.mend.show())
        WhenSeen(
            self, self._show_path, focus.shelf.plan_changed, focus.prepared_changed,
            focus.tree_changed, focus.cut_changed, focus.shelf.saved_changed,
            focus.shelf.study_changed, self.counting.changed, actions.growing,
            self.turning.changed, self.turning.turned,
        )  # fmt: skip
        actions.files.picture = self._picture
        self._arrival = QTimer(self, singleShot=True, interval=_ARRIVAL)
        self._arrival.timeout.connect(self._show_tree)
        focus.tree_changed.connect(self._arrival.start)
        self.offers = Offers(actions, self.dialogs, lambda: self.notice, self)
        self.offers.kept.connect(self._show_shelf)
        actions.broken.connect(lambda *_: self.alarm.hide())
        add_keys(self.commands(), self)

    def _tell_loading(self, words: str) -> None:
        self.loading.setText(f"{words}. Up to 2,500 cases nothing waits for it." if words else "")
        self.loading.setVisible(bool(words))

    # the pages, each made when it is first asked for

    @property
    def cases(self) -> CasesPage:
        return self.pages.cases

    @property
    def plan(self) -> PlanPage:
        return self.pages.plan

    @property
    def tree(self) -> TreePage:
        return self.pages.tree

    @property
    def count(self) -> CountPage:
        return self.pages.count

    @property
    def profiles(self) -> ProfilesPage:
        return self.pages.profiles

    @property
    def compare(self) -> ComparePage:
        return self.pages.compare

    @property
    def memberships(self) -> MembershipsPage:
        return self.pages.memberships

    # the path

    def stops(self) -> tuple[Stop, ...]:
        """The pages with their live states."""
        return stops_of(self.focus, self.counting.board)

    def _show_path(self) -> None:
        here = self.pages.place
        self.strip.show_stops(self.stops(), here)
        study = self.focus.shelf.study
        self.sentence_row.setVisible(study is not None)
        if study is not None:
            title = title_of(self.focus).replace("[*]", "[*][*]")  # one stands for unsaved changes
            self.setWindowTitle(f"{title} – Gorvel")
        kept = 0 if study is None else len(study.kept)
        self.shelf_button.setText(f"Shelf ({kept})" if kept else "Shelf")
        self.shelf_button.setVisible(study is not None)
        on_plan = here == PLAN
        self._offer_growing(here)
        stuck = bool(self.focus.problem)
        self.grow_button.setEnabled(not stuck and not self.acts.jobs.busy(JobKind.GROW))
        self.grow_button.setToolTip("" if stuck else "Ctrl+G")
        self.stuck.follow(on_plan)
        self.clusters_row.setVisible(here in WITH_CLUSTERS and self.clusters.has_any)
        self.result.show_page(here)

    def _offer_growing(self, here: int) -> None:
        """On pages that have no such button; on the first another step may be due before."""
        waits = here == 0 and self.cases.waits
        shown = here in WITHOUT_GROWING and not (here == 0 and self.cases.turns)
        self.grow_button.setVisible(shown and self.focus.grown is None)
        mark_due(self.grow_button, not waits)

    def go_to(self, page: int) -> None:
        """Open a page of the path."""
        if self.focus.shelf.study is None:
            return
        another = self.pages.place != page
        if page != COMPARE:
            self.shelf.setVisible(self.shelf_seen)  # before a wider page would push the window open
        self.pages.turn_to(page)
        self._place_shelf()
        self._show_path()
        if another:
            self.pages.take_focus()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.pages.take_focus()

    def to_variables(self) -> None:
        """The keyboard goes to the list of variables."""
        if self.focus.shelf.study is not None:
            self.go_to(0)
            view = self.cases.variables.view
            view.setFocus(Qt.FocusReason.ShortcutFocusReason)
            if not view.currentIndex().isValid() and view.table.rowCount():
                view.selectRow(0)

    def _opened(self) -> None:
        self.alarm.settle()
        self.note.setText("")
        self.notice.say("")
        self.go_to(TREE if self.focus.grown is not None else 0)

    def grow(self) -> None:
        """Grow the tree of the plan, where it is looked at."""
        if self.focus.shelf.study is not None:
            self.go_to(TREE)
            self.acts.grow()

    def _show_tree(self) -> None:
        grown = self.focus.grown
        if grown is not None and not self.focus.out_of_date and self.pages.place == PLAN:
            self.go_to(TREE)

    def _picture(self) -> bytes:
        """Of the tree in hand, for lists of studies."""
        tree = self.focus.kept_now
        return b"" if tree is None else as_png(small_tree(tree, LIGHT, *_PICTURE, 2.0, ground=True))

    # the shelf

    def toggle_shelf(self) -> None:
        """Show or hide the trees that are kept."""
        if self.focus.shelf.study is not None:
            self.shelf_seen = not self.shelf_seen
            self._place_shelf()
            if self.shelf_seen:
                self.shelf.take_focus()

    def _place_shelf(self) -> None:
        """Beside the page where it is wanted, and where its trees are compared."""
        pairing = self.pages.place == COMPARE
        self.shelf.setVisible(self.shelf_seen or pairing)
        self.shelf.pair(pairing)

    def keep_tree(self) -> None:
        """Put the tree in hand on the shelf; one that is out of date as it was grown."""
        focus = self.focus
        if focus.grown is None or focus.shelf.study is None:
            self.say("There is no tree to keep yet: grow it first (Ctrl+G).", True)
            return
        if focus.grown_id == focus.shelf.study.in_hand and focus.shelf.study.entry.kept:
            self.say("This tree is on the shelf already.", False)
            return
        focus.shelf.keep(focus.trees_as_grown if focus.out_of_date else ())
        self.say("Tree kept.", False)
        self._show_shelf()

    def _show_shelf(self) -> None:
        self.shelf_seen = True
        self._place_shelf()

    def _met_fault(self, words: str) -> None:
        self.alarm.tell(words, defect=True)

    def say(self, words: str, is_error: bool) -> None:
        """Say something: an error stays until dismissed, the rest stands beside the sentence."""
        if is_error:
            self.note.setText("")
            self.alarm.tell(words)
        else:
            self.alarm.settle()
            self.note.setText(words)
            self._note_timer.start()

    # files dropped

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        kinds = {path: kind_named(path) for path in paths}
        tables = [Path(path) for path, kind in kinds.items() if kind and not kind.one_of]
        if len(tables) > 1 and len(tables) == len(paths):
            self.dialogs.stack(sorted(tables))
        elif paths and self.dialogs.may_leave():
            self.acts.open(Path(paths[0]))

    # menu, looks, end

    def open_menu(self) -> None:
        """Open the menu below its button."""
        menu = self.build_menu()
        corner = self.menu_button.mapToGlobal(QPoint(0, self.menu_button.height() + 2))
        menu.popup(
            QPoint(corner.x() + self.menu_button.width() - menu.sizeHint().width(), corner.y())
        )

    def build_menu(self) -> QMenu:
        """Everything that can be done from any page."""
        return made_menu(self.commands(), self)

    def turn_answers(self) -> None:
        """Turn answers into numbers, on the Cases page."""
        self.go_to(0)
        self.cases.show_turning(True)

    def commands(self) -> tuple[Command, ...]:
        """Everything that can be done from any page, as it stands now."""
        return commands_of(self)

    def show_keys(self) -> None:
        """All keys, in a window of their own."""
        show_shortcuts(self)

    def show_about(self) -> QDialog:
        """The program, what it runs on, where it keeps what it writes by itself."""
        return show_about(self)

    def other_theme(self) -> None:
        """Light to dark and back."""
        theme = LIGHT if current() is DARK else DARK
        self.settings.theme = theme.name
        self._restyle()

    def scale_text(self, factor: float) -> None:
        """Larger or smaller text, between 0.8 and 1.6 of the usual size."""
        low, high = SCALE_RANGE
        self.settings.text_scale = min(max(self.settings.text_scale * factor, low), high)
        self._restyle()

    def _restyle(self) -> None:
        """Build the window's inside anew in the new looks, keeping study, tree and page."""
        save_settings(self.settings)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        page, note = self.pages.place, self.note.text()
        said, wrong = self.notice.said, self.alarm.told
        old = self.centralWidget()  # hundreds of widgets would be polished for nothing
        assert old is not None
        old.deleteLater()
        QCoreApplication.sendPostedEvents(old, QEvent.Type.DeferredDelete)
        apply_theme(app, DARK if self.settings.theme == "dark" else LIGHT, self.settings.text_scale)
        dress_window(self)
        self._build()
        self.pages.turn_to(page)
        self._place_shelf()
        self.note.setText(note)
        self.notice.say(said[0], *said[1])
        if wrong[0]:
            self.alarm.tell(*wrong)
        self._show_path()
        self.pages.take_focus()

    def leave(self) -> None:
        """Go without asking; what is not saved is kept for the next start."""
        self._asks = False
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._asks and not (self.dialogs.may_leave() and self.acts.files.ended_well()):
            event.ignore()
            return
        self.settings.geometry = bytes(self.saveGeometry().data()).hex()
        save_settings(self.settings)
        self.acts.finish(0.0)
        if self._asks and self.dialogs.declined:
            self.keeper.forget()
        else:
            self.keeper.keep_now()
        event.accept()
