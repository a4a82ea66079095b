"""Makes the pictures in docs/screenshots/ from the demo data.

QT_QPA_PLATFORM=offscreen PYTHONPATH=src .venv/bin/python tools/make_screenshots.py
"""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path

from PySide6.QtCore import QSize

from gorvel.desk.state.marks import Mark
from gorvel.desk.state.settings import Settings
from gorvel.desk.window.application import make_application
from gorvel.desk.window.pictures import grown_window, picture, picture_pages, wait_for
from gorvel.desk.window.window import Window
from gorvel.paint.charts.lanes_layout import LanesPlace
from gorvel.paint.figure import Figure, drawn
from gorvel.paint.theme import LIGHT

ROOT = Path(__file__).parents[1]
PLAN = ROOT / "demo" / "readers.toml"
ONLINE = ROOT / "demo" / "online.csv"
TARGET = ROOT / "docs" / "screenshots"


def main() -> None:
    """One picture of each page in light, of the tree in dark, and of the sides of the cases."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as own:  # what is pictured is not what a user opened last
        os.environ["GORVEL_SETTINGS"] = str(Path(own) / "settings.json")
        _make()


def _make() -> None:
    made = picture_pages(PLAN, TARGET)
    for path in picture_pages(PLAN, TARGET, "dark", suffix="-dark"):
        if path.stem == "tree-dark":
            made.append(path)
        else:
            path.unlink()
    made.append(answers_in_words())
    made += trees_from_all_sides()
    made += counts_from_all_sides()
    made += profiles_from_all_sides()
    made += comparisons_from_all_sides()
    made += studies_from_all_sides()
    for path in made:
        print(path.relative_to(ROOT))


def answers_in_words() -> Path:
    """An export in words, and what is proposed of its columns."""
    make_application("light")
    window = Window(Settings(), PLAN)
    window.resize(QSize(1280, 800))
    window.show()
    window.acts.open(ONLINE)
    wait_for(lambda: bool(window.turning.proposals), "what the columns hold")
    window.turn_answers()
    rows = window.cases.turn.rows
    next(row for row in rows if len(row.proposal.columns) > 1).box.setFocus()
    wait_for(lambda: window.acts.jobs.idle, "what comes out")
    path = TARGET / "cases-answers.png"
    picture(window, path)
    window.acts.finish()
    window.hide()
    return path


def counts_from_all_sides() -> list[Path]:
    """The Count page once rules have drawn anew: a rule, and checks in dark."""
    return [counted("light", "count", 0), counted("dark", "count-checks-dark", 3)]


def counted(theme: str, name: str, tab: int) -> Path:
    """One picture of the Count page. tab : the card beside the board."""
    window = grown_window(PLAN, QSize(1280, 800), theme)
    counting = window.counting
    wait_for(lambda: counting.board is not None, "the rules")
    window.go_to(3)
    window.focus.set_count(5)
    counting.resample()
    wait_for(lambda: not counting.at_work("resamples"), "the resamples")
    counting.select("gap" if tab == 0 else "silhouette")
    window.count.show_tab(tab)
    window.count.silhouettes.beside.setCurrentIndex(3)
    window.count.choice.ask(6)
    if tab == 3:
        for what in ("structure", "splits", "orders"):
            counting.check(what)
            wait_for(lambda what=what: not counting.at_work(what), what)
    wait_for(lambda: window.acts.jobs.idle, "the page")
    path = TARGET / f"{name}.png"
    picture(window, path)
    window.acts.finish()
    window.hide()
    return path


def trees_from_all_sides() -> list[Path]:
    """The desk close up with a pair, of a matrix, and as a figure for print."""
    made = []

    def keep(window: Window, name: str) -> None:
        wait_for(lambda: window.acts.jobs.idle and not window.focus.correlating, name)
        made.append(TARGET / f"tree-{name}.png")
        picture(window, made[-1])

    window = grown_window(PLAN, QSize(1280, 800))
    window.go_to(2)
    desk = window.tree.desk
    wait_for(lambda: desk.axis.arrangement is not None, "the tree")
    desk.axis.zoom(9.0)
    arrangement = desk.axis.arrangement
    assert arrangement is not None
    order = arrangement.order
    first = arrangement.position(desk.icicle.frame().place(220))
    window.focus.select(Mark("pair", int(order[first]), int(order[first + 9])))
    keep(window, "zoomed")
    window.focus.select(None)
    desk.axis.zoom_to_fit()
    made.append(TARGET / "figure.png")
    shown = [one.printed(LIGHT) for one in (desk.dendrogram, desk.labels, desk.proximities)]
    columns = [picture for picture in shown if picture is not None]
    figure = Figure(columns, [5.0, 1.0, 4.0], desk.axis.span, 170.0, 110.0, 150.0)
    drawn(figure, "png")(made[-1])
    window.acts.finish()
    window.hide()
    window = grown_window(ROOT / "demo" / "services.toml", QSize(1280, 800))
    window.go_to(2)
    window.focus.select(Mark("join", 9))
    keep(window, "matrix")
    window.acts.finish()
    window.hide()
    return made


def profiles_from_all_sides() -> list[Path]:
    """What clusters are like, told with names; the map with a case, and the short form."""
    window = grown_window(PLAN, QSize(1280, 800))
    focus, page, made = window.focus, window.profiles, []
    window.go_to(4)
    focus.set_count(5)
    for name, title in (("C", "Event families"), ("D", "Quiet regulars"), ("B", "From far")):
        number = [who.name for who in focus.identities].index(name) + 1
        focus.name_cluster(number, title)
    chosen = next(k for k, who in enumerate(focus.identities) if who.name == "C")
    wait_for(lambda: page.profiling.portrayed is not None, "the lanes")
    page.view.choose(chosen)
    page.card.draft.click()
    page.view.point(LanesPlace(2, chosen))
    for tab, name in ((0, "profiles"), (2, "profiles-map"), (6, "profiles-short-form")):
        page.show_tab(tab)
        wait_for(lambda: window.acts.jobs.idle, name)
        if tab == 2:
            focus.select(Mark("case", 30))
            page.profiling.ask_shares()
            wait_for(lambda: window.acts.jobs.idle, "the resamples")
        made.append(TARGET / f"{name}.png")
        picture(window, made[-1])
    window.acts.finish()
    window.hide()
    return made


def comparisons_from_all_sides() -> list[Path]:
    """Two trees face to face, and the sweep."""
    window = grown_window(PLAN, QSize(1280, 800))
    jobs, page = window.acts.jobs, window.compare
    window.focus.set_count(5)
    window.go_to(5)
    for linkage in ("average", "complete"):
        page.put_beside(linkage)
        wait_for(lambda: jobs.idle, linkage)
    window.focus.shelf.call(3, "Complete")
    wait_for(lambda: page.reading.sentences() != "" and jobs.idle, "the two trees")
    made = [TARGET / "compare.png", TARGET / "compare-sweep.png"]
    picture(window, made[0])
    page.show_tab(2)
    page.sweep.go.click()
    wait_for(lambda: jobs.idle, "the sweep")
    picture(window, made[1])
    window.acts.finish()
    window.hide()
    return made


def studies_from_all_sides() -> list[Path]:
    """Trees on the shelf, trees of groups, and the studies used before."""
    made = []

    def keep(window: Window, name: str) -> None:
        wait_for(lambda: window.acts.jobs.idle and not window.focus.correlating, name)
        made.append(TARGET / f"{name}.png")
        picture(window, made[-1])

    def grow(window: Window) -> None:
        window.acts.grow()
        wait_for(lambda: window.acts.jobs.idle and not window.focus.out_of_date, "the tree")

    window = grown_window(PLAN, QSize(1280, 800))
    focus = window.focus
    window.go_to(2)
    focus.set_count(5)
    window.keep_tree()
    focus.shelf.change("tree", linkage="complete")
    grow(window)
    focus.set_count(3)
    window.keep_tree()
    focus.shelf.call(2, "Complete linkage, to check", "Does the small group stand alone here, too?")
    focus.shelf.change_by(
        lambda plan: plan.with_parts(
            {"tree": {"linkage": "average"}, "scale": {"method": "range01"}}
        )
    )
    grow(window)
    focus.set_count(4)
    keep(window, "shelf")
    with tempfile.TemporaryDirectory() as home:
        os.environ["HOME"] = home  # the picture shows folders of nobody
        folder = Path(home) / "surveys"
        folder.mkdir()
        for count, name in ((4, "readers 2026"), (6, "readers, six types")):
            focus.set_count(count)
            window.acts.files.save_study(folder / f"{name}.gorvel")
            window.acts.files.written()
        shutil.copy(PLAN.with_name("stops.csv"), folder)
        names = ("readers, six types.gorvel", "readers 2026.gorvel", "stops.csv", "pilot.gorvel")
        first = Window(Settings(recent=[str(folder / name) for name in names]), PLAN)
        first.resize(QSize(1280, 800))
        first.show()
        keep(first, "welcome")
        first.hide()
    focus.set_count(4)
    focus.shelf.change("cases", split="stop")
    grow(window)
    window.toggle_shelf()
    window.notice.say("")
    keep(window, "groups")
    window.acts.finish()
    window.hide()
    return made


if __name__ == "__main__":
    main()
