"""What a shelf item is: a few driving dimensions, and a part whose numbers are expressions of
them, so that a dimension edited later still shapes it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from anakinema.document import model

Source = float | str
Sizes = Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Recipe:
    """A ready-made definition.

    sizes : (name, default) of its driving dimensions, with their units.
    make : gives places and slabs, stated in those names. cams : that the slabs have outlines of.
    """

    id: str
    title: str
    group: str
    sizes: tuple[tuple[str, str], ...]
    make: Callable[[], tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]]
    colour: model.Colour = "blue"
    note: str = ""
    cams: tuple[model.Cam, ...] = ()

    @property
    def key(self) -> str:
        """What it is taken from the shelf by."""
        return f"shelf:{self.id}"

    @property
    def shown_colour(self) -> model.Colour:
        """Colour of its drawing on the shelf."""
        return self.colour

    def part(self, part_id: str, colour: model.Colour | None = None, **sizes: str) -> model.Part:
        """A part with that id; ``sizes`` replace defaults."""
        unknown = sizes.keys() - {name for name, _ in self.sizes}
        if unknown:
            raise KeyError(", ".join(sorted(unknown)))
        places, slabs = self.make()
        return model.Part(
            id=part_id,
            name=self.title if part_id == self.id else part_id.replace("_", " "),
            colour=colour or self.colour,
            dimensions=tuple(
                model.Parameter(id=name, value=sizes.get(name, value)) for name, value in self.sizes
            ),
            places=places,
            slabs=slabs,
            cams=self.cams,
        )


@dataclass(frozen=True, slots=True)
class Kit:
    """Ready-made parts that belong together, with the joints between them.

    roles : what its parts with their bodies, and its joints, are called; the first body is put
    down where the designer points, and its part has the driving dimensions ``sizes`` (name,
    default). make : gives all of them, given an id for each role; poses are those with the first
    body at the origin.
    """

    id: str
    title: str
    group: str
    sizes: tuple[tuple[str, str], ...]
    roles: tuple[str, ...]
    make: Callable[[Mapping[str, str]], Made]
    colours: tuple[model.Colour, ...]
    note: str = ""

    @property
    def key(self) -> str:
        """What it is taken from the shelf by."""
        return f"kit:{self.id}"

    @property
    def shown_colour(self) -> model.Colour:
        """Colour of its drawing on the shelf, which shows its first part."""
        return self.colours[0]


@dataclass(frozen=True, slots=True)
class Made:
    """What a kit consists of."""

    parts: tuple[model.Part, ...]
    bodies: tuple[model.Body, ...]
    joints: tuple[model.Joint, ...]


def place(name: str, x: Source = 0.0, y: Source = 0.0, angle: Source = 0.0) -> model.Place:
    """A place on a part."""
    return model.Place(id=name, x=x, y=y, angle=angle)


def circle(radius: Source, x: Source = 0.0, y: Source = 0.0) -> model.Circle:
    """A full circle."""
    return model.Circle(shape="circle", x=x, y=y, radius=radius)


def hull(*rounds: tuple[Source, Source, Source]) -> model.Hull:
    """A belt over circles (x, y, radius)."""
    return model.Hull(
        shape="hull", rounds=tuple(model.Round(x=x, y=y, radius=r) for x, y, r in rounds)
    )


def rectangle(
    width: Source, height: Source, x: Source = 0.0, y: Source = 0.0, corner: Source = 0.0
) -> model.Rectangle:
    """A rectangle about (x, y)."""
    return model.Rectangle(shape="rectangle", x=x, y=y, width=width, height=height, corner=corner)


def hexagon(across: str) -> model.Path:
    """A regular hexagon by its width across flats."""
    corners = tuple(
        model.Vertex(
            x=f"{across}/sqrt(3)*cos({60 * k} deg)", y=f"{across}/sqrt(3)*sin({60 * k} deg)"
        )
        for k in range(6)
    )
    return model.Path(shape="path", vertices=corners)


def slab(
    name: str, bottom: Source, top: Source, outline: model.Outline, **holes: model.Outline
) -> model.Slab:
    """A slab with named holes."""
    return model.Slab(
        id=name,
        bottom=bottom,
        top=top,
        outline=outline,
        holes=tuple(model.Hole(id=hole, outline=shape) for hole, shape in holes.items()),
    )
