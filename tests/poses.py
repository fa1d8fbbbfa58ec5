"""Searching and ranking poses in one, for tests."""

from __future__ import annotations

from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.pose import Z_UP, Direction, PoseChoice, Wish, rank_poses, search_poses


def choose_poses(
    mesh: Mesh,
    context: Context,
    *,
    count: int = 4,
    directions: int = 1000,
    wish: Wish | None = None,
    up: Direction = Z_UP,
    front: Direction | None = None,
    coarse: Mesh | None = None,
) -> PoseChoice:
    """`search_poses` and `rank_poses` in one."""
    search = search_poses(mesh, context, directions=directions, wish=wish, up=up, coarse=coarse)
    return rank_poses(mesh, search, context, count=count, wish=wish, front=front)
