"""What changed from one document to the next, as JSON; and a document made up of it again.

Pictures are stated by a digest of their data, which is kept once, apart.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from typing import Any

from anakinema.document.model import Document, Model, Picture
from anakinema.document.model.earlier import named_today

Json = dict[str, Any]


def picture_digest(data: str) -> str:
    """What a picture's data are stated by."""
    return hashlib.blake2b(data.encode(), digest_size=12).hexdigest()


def pictures_of(document: Document) -> dict[str, str]:
    """The data of a document's pictures by digest."""
    return {picture_digest(picture.data): picture.data for picture in document.pictures}


def whole(document: Document) -> Json:
    """A whole document."""
    return _stated(document)


def patch(before: Document, after: Document) -> Json:
    """What makes ``after`` of ``before``: values set, and items of lists by their ids.

    Items that both share are not looked into, so its cost is that of what changed.
    """
    values: Json = {}
    lists: Json = {}
    for name in Document.model_fields:
        old, new = getattr(before, name), getattr(after, name)
        if new is old:
            continue
        if not isinstance(new, tuple):
            values[name] = _stated(new) if isinstance(new, Model) else new
            continue
        known = {item.id: item for item in old}
        fresh = {item.id: _stated(item) for item in new if known.get(item.id) is not item}
        order = [item.id for item in new]
        if len(set(order)) < len(order) or len(known) < len(old):
            # Ids that clash are a mistake of the document, which must come back all the same.
            values[name] = [_stated(item) for item in new]
        else:
            lists[name] = {"order": order, "new": fresh}
    return {"values": values, "lists": lists}


def patched(before: Document, change: Json, pictures: Mapping[str, str]) -> Document:
    """The document after a change. Raises `ValueError`, `KeyError` or `TypeError` if it is none."""
    values: Json = {name: getattr(before, name) for name in Document.model_fields}
    values.update(named_today(change["values"]))
    for name, entry in named_today(change["lists"]).items():
        known = {item.id: item for item in getattr(before, name)}
        values[name] = tuple(entry["new"].get(item, known.get(item)) for item in entry["order"])
    return Document.model_validate(_with_pictures(values, pictures))


def document_of(stated: Json, pictures: Mapping[str, str]) -> Document:
    """A whole document as it was stated. Raises `ValueError` or `KeyError` if it is none."""
    return Document.model_validate(_with_pictures(dict(stated), pictures))


def _stated(model: Model) -> Json:
    data = model.model_dump(mode="json", exclude_defaults=True)
    pictures = data.get("pictures", []) if isinstance(model, Document) else []
    for stated in [data] if isinstance(model, Picture) else pictures:
        stated["data"] = picture_digest(stated["data"])
    return data


def _with_pictures(values: Json, pictures: Mapping[str, str]) -> Json:
    """With the data of pictures in place of their digests; one that is lost comes back empty."""
    values["pictures"] = [
        {**each, "data": pictures.get(each["data"], "")} if isinstance(each, dict) else each
        for each in values.get("pictures", ())
    ]
    return values
