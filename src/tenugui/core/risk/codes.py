"""Every hazard the ledger can name: code, what is lost, and what it means."""

from __future__ import annotations

HAZARDS: dict[str, tuple[str, str]] = {
    "island": ("part lost", "something starts in mid air with nothing to hold it"),
    "overhang": ("scar", "a layer reaches farther out than the layer below can carry"),
    "sealed": ("part lost", "a cup seals against the film and sucks when it is peeled off"),
    "trapped": ("part lost", "liquid resin stays inside with no way out"),
    "thin": ("part lost", "a part so thin that it may break while its supports come off"),
    "pull": ("print lost", "the peeled layer pulls harder than what holds the figure"),
    "open-surface": ("print lost", "the surface has holes, so inside and outside are not certain on some scan lines"),
    "stands-on-figure": ("scar", "a support stands on the figure"),
    "locked": ("scar", "a support stands in an opening and comes out in pieces only"),
    "mishap": ("print lost", "what no layer shows, as a prior"),
    "outside-build": ("print lost", "figure and supports reach past the build space"),
    "handled": ("part lost", "a part hardly thicker than the tip that is taken off it"),
    "knock": ("part lost", "a slender part that a knock of the nozzle breaks off"),
    "gaps": ("scar", "slopes that lines leave open"),
    "strings": ("scar", "hairs where the nozzle crosses open air"),
    "sway": ("part lost", "a slender part sways under the nozzle, and its lines miss each other"),
    "unstable": ("print lost", "a knock or the moving plate tips it off its foot"),
}
