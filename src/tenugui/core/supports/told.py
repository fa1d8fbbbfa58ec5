"""What the user should know about a support set."""

from __future__ import annotations

import numpy as np

from ..layers import Proof, relief_mm
from ..machines import Context, Printer, fits_in
from ..mesh import Mesh
from .body import RAFT_MM
from .demand import MAX_TIPS
from .firm import SWAY_MM
from .support_set import SupportFinding, SupportSet

FEW_BLOCKS = 6
"""Blocks under the first islands are few, and pull next to nothing."""


def findings_of(support_set: SupportSet, context: Context, *, asked: bool, left_out: int) -> list[SupportFinding]:
    tips, proof, printer = support_set.tips, support_set.after, context.printer
    findings = []
    if asked and not any(tip.reason == "hold" for tip in tips):
        text = (
            "What is marked to be held is not: it looks upwards in this "
            "pose, stands on the plate, or no support finds a way to it."
        )
        findings.append(SupportFinding("hold-unreached", "warning", 1, text + " Turn the figure, or hold it by hand."))
    over = outside_build(support_set.whole, printer)
    if over:
        findings.append(SupportFinding("outside-build", "severe", 1, over))
    if left_out:
        text = (
            f"{left_out:,} places more than {MAX_TIPS:,} want a tip and "
            "get none. Turn the figure so that less of it looks down."
        )
        findings.append(SupportFinding("tips-capped", "severe", left_out, text))
    blocks = sum(tip.square for tip in tips)
    peel = context.peel_kpa
    if (firm := support_set.firm) is not None and firm.beyond:
        n = firm.beyond
        text = (
            f"{n} pillar{' sways' if n == 1 else 's sway'} farther than {SWAY_MM} mm, one of {firm.diameter_mm:.1f} "
            f"mm by {firm.sway_mm:.2f} over {firm.length_mm:.0f} mm without a brace: "
            "no other stands near, and the figure leaves no room for a thicker one."
        )
        findings.append(SupportFinding("sways", "warning", n, text))
    if blocks > FEW_BLOCKS and peel:
        most = _most_added(support_set.before, proof, RAFT_MM if support_set.with_raft else 0.0)
        text = (
            f"The blocks add up to {most:.0f} mm² to a layer: {most * peel * 1e-3:.1f} "
            "N more pull on the film (prior). Pillars or trees pull less."
        )
        findings.append(SupportFinding("block-pulls", "notice", blocks, text))
    if specks := len(proof.islands) - len(support_set.islands):
        text = (
            f"{specks} speck{' of relief starts' if specks == 1 else 's of relief start'} in mid air and "
            f"join{'s' * (specks == 1)} within {relief_mm(proof.stack.grid.height):g} mm; "
            f"nothing holds {'it' if specks == 1 else 'them'}, and a small mark may show."
        )
        findings.append(SupportFinding("specks-unheld", "notice", specks, text))
    if support_set.islands:
        n = len(support_set.islands)
        text = (
            f"{n} island{'' if n == 1 else 's'} could not be held: no support "
            "finds a way to them. Turn the figure, or free the place by hand."
        )
        findings.append(SupportFinding("island-left", "severe", n, text))
    shut = int(support_set.inside.sum())
    if shut:
        text = (
            f"{shut} support{' stands in a cavity and stays' if shut == 1 else 's stand in cavities and stay'} "
            "there: what starts in mid air inside is held."
        )
        findings.append(SupportFinding("stands-inside", "notice", shut, text))
    standing = sum(tip.scars_twice for tip in tips) - shut
    if standing:
        stand = "support stands" if standing == 1 else "supports stand"
        text = f"{standing} {stand} on the figure, because nothing reaches the plate from there: scars at both ends."
        findings.append(SupportFinding("stands-on-figure", "notice", standing, text))
    return findings


def outside_build(whole: Mesh, printer: Printer) -> str:
    """In words how figure, supports and raft reach past the build space, empty where they fit."""
    (x, y), height = whole.size[:2], float(whole.upper[2])
    if fits_in((x, y, height), printer.build_mm):
        return ""
    room = " x ".join(f"{v:g}" for v in printer.build_mm)
    return (
        f"With supports and raft it measures {x:.1f} x {y:.1f} x {height:.1f} "
        f"mm; '{printer.name}' builds {room} mm. Make it smaller, or turn it."
    )


def _most_added(before: Proof, proof: Proof, above: float) -> float:
    """Largest area in mm² that supports add to any layer `above` a raft."""
    without = np.zeros(len(proof.areas))
    without[: len(before.areas)] = before.areas[: len(proof.areas)]
    first = int(np.ceil(above / proof.stack.grid.height))
    return float((proof.areas - without)[first:].max(initial=0.0))
