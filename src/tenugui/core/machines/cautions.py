"""The usual cautions for each process; the safety data sheet and the maker's instructions come first."""

from __future__ import annotations

ALWAYS = [
    "The safety data sheet of the material, the makers' "
    "instructions and local rules come before anything printed here.",
    "A printer running unattended: smoke alarm, clear surroundings, the maker's instructions.",
    "Cutting off supports: splinters fly and tips are needles. "
    "Eye protection; cut away from yourself; sweep the floor.",
    "Prints are not for small children and are not food safe unless certified.",
]
RESIN_CAUTIONS = (
    "Uncured resin sensitises and irritates skin: nitrile gloves, eye "
    "protection, ventilation. Off the skin with soap and water, never solvent.",
    "Never down the drain: cure waste and rinsings, then dispose of them under local rules.",
    "Washing alcohol gives flammable vapours: no flames, no sparks, "
    "closed vessels, no ultrasonic bath that is not rated for it.",
    "Ultraviolet lamps: do not look in, do not bypass a lid switch.",
    "Liquid left inside a hollow can burst it: drain, flush, cure the inside.",
)
FILAMENT_CAUTIONS = (
    "Hot nozzle and melting plastic: burns and fumes; ventilate, and keep solvents away from anything hot.",
    "Sand wet or with a dust mask. Spray primers outdoors or in "
    "an extracted booth, with the right respirator and no ignition.",
)
