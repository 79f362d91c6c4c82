"""The inspector's forms of what ties bodies together: couplings, contacts, belts and chains."""

from __future__ import annotations

from functools import partial

from anakinema.authoring import size_words, stated_of_belt
from anakinema.document import Going, contact_spec, coupling_spec, kinds_of_contact, model
from anakinema.edits import Remove, SetBelt, SetBeltWheel, SetContact, SetCoupling
from anakinema.ui.fields import label, source_text
from anakinema.ui.inspector.form import Form


def build_coupling(form: Form, name: str) -> None:
    """Rows of a coupling."""
    item = next(
        (each for each in form.workbench.session.document.couplings if each.id == name), None
    )
    if item is None:
        return
    scene = form.workbench.scene
    assert scene is not None

    def now() -> model.Coupling:
        return model.next_by_id(form.workbench.session.document.couplings, name)

    form.heading(item.title)
    form.quiet(coupling_spec(item.kind).words)
    document = scene.resolved.document
    active = {c.id for c in document.couplings}
    words = size_words(document, item) if name in active else ()
    for which, said in zip(("first_size", "second_size"), words, strict=False):
        form.quantity(
            said,
            f"{which}_{name}",
            lambda w=which: source_text(getattr(now(), w)),  # type: ignore[misc]
            lambda text, w=which: SetCoupling(name, w, text),  # type: ignore[misc]
        )
    form.check(
        "In force",
        f"in_force_{name}",
        lambda: not now().off,
        lambda on: SetCoupling(name, "off", not on),
    )
    going = Remove(Going(couplings=frozenset((name,))), "Delete coupling")
    form.buttons((f"drop_{name}", "Delete coupling", lambda: form.once(going)))


def build_contact(form: Form, name: str) -> None:
    """Rows of a contact."""
    item = next(
        (each for each in form.workbench.session.document.contacts if each.id == name), None
    )
    if item is None:
        return

    def now() -> model.Contact:
        return model.next_by_id(form.workbench.session.document.contacts, name)

    form.heading(item.title)
    kinds = [(k, contact_spec(k).words) for k in kinds_of_contact(alone=item.second is None)]
    form.choice(
        "it",
        f"contact_kind_{name}",
        kinds,
        lambda: now().kind,
        lambda kind: SetContact(name, "kind", kind),
    )
    if contact_spec(item.kind).keeps:
        form.check(
            "Rolls without slip",
            f"rolls_{name}",
            lambda: now().rolling,
            lambda on: SetContact(name, "rolling", on),
        )
    form.check(
        "In force",
        f"contact_in_force_{name}",
        lambda: not now().off,
        lambda on: SetContact(name, "off", not on),
    )
    going = Remove(Going(contacts=frozenset((name,))), "Delete contact")
    form.buttons((f"drop_contact_{name}", "Delete contact", lambda: form.once(going)))


def build_belt(form: Form, name: str) -> None:
    """Rows of a belt."""
    item = next((each for each in form.workbench.session.document.belts if each.id == name), None)
    if item is None:
        return
    bench = form.workbench

    def now() -> model.Belt:
        return model.next_by_id(bench.session.document.belts, name)

    titles = {}
    if bench.scene is not None:
        titles = {j.id: j.title for j in bench.scene.resolved.source.joints}
    form.heading(item.title)
    stated = label("", "quiet", wrap=True)
    stated.setObjectName(f"loop_words_{name}")
    form.layout.addWidget(stated)

    def tell() -> None:
        scene = bench.scene
        stated.setText("; ".join(stated_of_belt(scene, name)) if scene is not None else "")

    form.on_refresh(tell)
    tell()
    for k, wheel in enumerate(item.wheels):
        title = titles.get(wheel.joint, wheel.joint)
        form.quantity(
            f"radius on {title}",
            f"loop_{name}_{k}",
            partial(lambda i: source_text(now().wheels[i].radius), k),
            partial(SetBeltWheel, name, k, "radius"),
        )
        form.check(
            "with its back",
            f"loop_back_{name}_{k}",
            partial(lambda i: now().wheels[i].back, k),
            partial(SetBeltWheel, name, k, "back"),
        )
    form.quantity(
        "length, empty: as drawn",
        f"loop_length_{name}",
        lambda: source_text(now().length),
        lambda text: SetBelt(name, "length", text.strip() or None),
    )
    form.quantity(
        "thickness, if any",
        f"loop_thickness_{name}",
        lambda: source_text(now().thickness),
        lambda text: SetBelt(name, "thickness", text.strip() or None),
    )
    form.check(
        "In force",
        f"loop_in_force_{name}",
        lambda: not now().off,
        lambda on: SetBelt(name, "off", not on),
    )
    going = Remove(Going(belts=frozenset((name,))), "Delete loop")
    form.buttons((f"drop_loop_{name}", "Delete loop", lambda: form.once(going)))
