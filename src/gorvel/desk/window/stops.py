"""What the path strip says: the pages in order of work, each with its live state; the title."""

from __future__ import annotations

from gorvel.core.base.numbers import counted, sentence
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.linkage.rules import TREE_RULES
from gorvel.core.proximity.scaling import SCALINGS
from gorvel.desk.controls.path_strip import Stop
from gorvel.desk.state.focus import Focus


def title_of(focus: Focus) -> str:
    """The name of what is open, and what of it is not saved; "" where nothing is."""
    shelf, study = focus.shelf, focus.shelf.study
    if study is None:
        return ""
    if shelf.file is not None:
        state = " (read-only)" if shelf.for_reading else ""
        return shelf.file.name + (state or (" (not saved)" if shelf.study_unsaved else ""))
    mark = " (plan not saved)" if shelf.plan_unsaved else ""
    return f"{(study.plan_file or study.data_file).name}{mark}"


def stops_of(focus: Focus, board: IndexTable | None) -> tuple[Stop, ...]:
    """The pages with their live states. board : of the tree on the screen, if there is one."""
    if focus.shelf.study is None or focus.shelf.plan is None:
        return ()
    plan, prepared, grown = focus.shelf.plan, focus.prepared, focus.grown
    if prepared is not None:
        kept = prepared.read - len(prepared.dropped)
        chosen = ", filtered" if plan.cases.keep else ""
        cases = Stop("Cases", f"{kept:,} of {prepared.read:,} used{chosen}")
    else:
        cases = Stop("Cases", f"{focus.shelf.study.source.n:,} read")
    rule = TREE_RULES[plan.tree.linkage].name
    if plan.source.kind == "counts":
        rule = "least loss of chi-square"
    words = sentence(rule)
    if plan.source.kind == "table":
        words += f" on {SCALINGS[plan.scale.method].name}"
    plan_stop = Stop("Plan", words)
    if focus.problem:
        plan_stop = Stop("Plan", "cannot run", alarm=True, tip=focus.problem)
    if grown is None:
        tree = Stop("Tree", "not grown yet", ready=False)
        saved = Stop("Memberships", "no clusters yet", ready=False)
        count = Stop("Count", "no tree yet", ready=False)
        profiles = Stop("Profiles", "no clusters yet", ready=False)
        return cases, plan_stop, tree, count, profiles, _compare_stop(focus), saved
    ties = int(grown.tree.tied.sum())
    tied = f"{ties:,}" if ties else "no"
    state = f"{counted(grown.tree.joins, 'join')}, {tied} tie{'' if ties == 1 else 's'}"
    tree = Stop("Tree", state)
    if focus.out_of_date:
        tree = Stop("Tree", "out of date", alarm=True)
    count = _count_stop(focus, board)
    told = _profiles_stop(focus), _compare_stop(focus), _save_stop(focus)
    return cases, plan_stop, tree, count, *told


def _count_stop(focus: Focus, board: IndexTable | None) -> Stop:
    """The count in hand and who speaks for it, or the one taken."""
    plan, cut = focus.shelf.plan, focus.cut
    assert cut is not None
    assert plan is not None
    chosen = plan.counting.chosen
    if focus.out_of_date:
        return Stop("Count", "out of date", alarm=True)
    if chosen is not None:
        here = chosen == cut.clusters and not cut.split
        return Stop("Count", f"{chosen} chosen" + ("" if here else f", {cut.clusters} shown"))
    if board is None:
        return Stop("Count", counted(cut.clusters, "cluster"))
    left_out = plan.counting.left_out
    votes = board.votes(left_out)
    heard = counted(sum(votes.values()), "vote")
    return Stop("Count", f"{cut.clusters:,}: {votes.get(cut.clusters, 0)} of {heard}")


def _profiles_stop(focus: Focus) -> Stop:
    """How many of the clusters in hand have a name."""
    cut = focus.cut
    assert cut is not None
    if focus.out_of_date:
        return Stop("Profiles", "out of date", alarm=True)
    named = sum(bool(who.title) for who in focus.identities)
    return Stop("Profiles", f"{named:,} of {cut.clusters:,} named")


def _compare_stop(focus: Focus) -> Stop:
    """How many trees there are to compare."""
    study = focus.shelf.study
    trees = 0 if study is None else len(study.trees)
    if focus.grown is None and trees < 2:
        return Stop("Compare", "no tree yet", ready=False)
    if trees == 1 and len(focus.groups) > 1:
        return Stop("Compare", f"{len(focus.groups):,} groups", ready=True)
    return Stop("Compare", counted(trees, "tree"), ready=trees > 1)


def _save_stop(focus: Focus) -> Stop:
    cut = focus.cut
    assert cut is not None
    tip = "Save cluster memberships in a copy of the table (Ctrl+M)"
    if focus.groups:
        return _group_stop(focus, tip)
    if focus.saved_to is None and focus.shelf.file and not focus.shelf.study_unsaved:
        said = f"{counted(cut.clusters, 'cluster')}, in the study"
        return Stop("Memberships", said, tip=tip)
    if focus.saved_to is None:
        said = f"{counted(cut.clusters, 'cluster')}, not saved"
        return Stop("Memberships", said, pending=True, tip=tip)
    said = f"{cut.clusters:,} saved in {focus.saved_to.name}"
    return Stop("Memberships", said, tip=tip)


def _group_stop(focus: Focus, tip: str) -> Stop:
    """With a split all groups are saved together."""
    groups = f"{len(focus.groups):,} groups"
    if focus.saved_to is not None:
        return Stop("Memberships", f"{groups} saved in {focus.saved_to.name}", tip=tip)
    if focus.shelf.file is not None and not focus.shelf.study_unsaved:
        return Stop("Memberships", f"{groups}, in the study", tip=tip)
    return Stop("Memberships", f"{groups}, not saved", pending=True, tip=tip)
