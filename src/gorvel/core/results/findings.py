"""What is known of the tree in hand, and how it is looked at: all that results are made of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from gorvel.core.compare.coassociation import CoAssociation
from gorvel.core.compare.gap_handlings import GapHandlings
from gorvel.core.compare.sweep import Sweep
from gorvel.core.count.groups import KnownGroups
from gorvel.core.count.indices.index_table import IndexTable
from gorvel.core.count.indices.silhouettes import Silhouettes
from gorvel.core.count.null.evidence import Evidence
from gorvel.core.count.null.validity_profile import CalibratedIndices
from gorvel.core.grow.grown import Grown
from gorvel.core.plan.plan import Plan
from gorvel.core.profile.components import Components
from gorvel.core.profile.leave_one_variable_out import Driver
from gorvel.core.profile.new_cases import NewCases
from gorvel.core.profile.portrayed import Portrayed
from gorvel.core.profile.raw_answers import Question
from gorvel.core.profile.short_form import ShortForm
from gorvel.core.profile.shown import Profiles
from gorvel.core.scene.points import Points
from gorvel.core.study.groups import Replicated
from gorvel.core.study.tree_pairs import PairAtCut, TreePair
from gorvel.core.tree.cluster_names import Identity
from gorvel.core.tree.cuts import Cut


@dataclass(frozen=True, eq=False)
class Findings:
    """Of one tree at one cut; None, or nothing in it, is what is not known.

    plan : that grew the tree; names : of the clusters, of the cut.
    rule : of which the values are looked at; left_out : rules that do not vote; index : which is
    held against data without groups; null : those data beside all rules, where they are shown;
    weights : of purposes; silhouettes : at the count of the cut; faced, met : two trees, and those
    at their cuts; titles : what the two are called; stability : of the clusters across the other
    trees; adjusted : are p values corrected for their number?; planes : cases in a plane, by
    result; against, grid : questions against each other, and all pairs of more than two; forms :
    short forms by the number of their questions; form : that of the questions that are taken.
    """

    plan: Plan
    grown: Grown
    cut: Cut
    names: Sequence[Identity]
    board: IndexTable | None = None
    rule: str = ""
    left_out: Sequence[str] = ()
    evidence: Evidence | None = None
    index: str = "silhouette"
    null: Evidence | None = None
    purpose: CalibratedIndices | None = None
    weights: Mapping[str, float] = field(default_factory=dict)
    silhouettes: Silhouettes | None = None
    known_groups: KnownGroups | None = None
    faced: TreePair | None = None
    met: PairAtCut | None = None
    titles: tuple[str, str] = ("", "")
    sweep: Sweep | None = None
    stability: CoAssociation | None = None
    handlings: GapHandlings | None = None
    replicated: Replicated | None = None
    portrayed: Portrayed | None = None
    profiles: Profiles | None = None
    adjusted: bool = False
    components: Components | None = None
    planes: Mapping[str, Points] = field(default_factory=dict)
    against: Sequence[Question] = ()
    grid: Mapping[tuple[str, str], Points] = field(default_factory=dict)
    drivers: Sequence[Driver] = field(default=())
    forms: ShortForm | None = None
    form: ShortForm | None = None
    new_cases: NewCases | None = None
