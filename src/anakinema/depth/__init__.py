"""The mechanism in space: cameras, rays, cuts, meshes and pictures; values without an interface."""

from anakinema.depth.camera import CORNER, LEVEL, Camera, Ray
from anakinema.depth.caps import Cap, caps_of
from anakinema.depth.cutting import Plane, cut_area
from anakinema.depth.exploding import Stack, lifts, stack_of, trails
from anakinema.depth.faces import Apart, Spot, apart
from anakinema.depth.meshes import Meshes
from anakinema.depth.outlines import rough_outline
from anakinema.depth.painters_order import Piece, Sight, pieces
from anakinema.depth.placed import Prism, Trail, placed_slabs
from anakinema.depth.rays import Hit, Targets
from anakinema.depth.renderer import Look, NoGraphicsError, Picture, Renderer, Sheet
from anakinema.depth.rims import Rim, Round, Side, rims_near, rounds_of
from anakinema.depth.spaces import shared_in_space, shared_space, swept_sheet

__all__ = [
    "CORNER",
    "LEVEL",
    "Apart",
    "Camera",
    "Cap",
    "Hit",
    "Look",
    "Meshes",
    "NoGraphicsError",
    "Picture",
    "Piece",
    "Plane",
    "Prism",
    "Ray",
    "Renderer",
    "Rim",
    "Round",
    "Sheet",
    "Side",
    "Sight",
    "Spot",
    "Stack",
    "Targets",
    "Trail",
    "apart",
    "caps_of",
    "cut_area",
    "lifts",
    "pieces",
    "placed_slabs",
    "rims_near",
    "rough_outline",
    "rounds_of",
    "shared_in_space",
    "shared_space",
    "stack_of",
    "swept_sheet",
    "trails",
]
