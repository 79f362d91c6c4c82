"""Reference pictures under the stage: drawn, brought in, and scaled from a known length."""

from __future__ import annotations

import base64
import math
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QImageReader, QPainter, QPen, QTransform
from PySide6.QtWidgets import QApplication, QInputDialog

from anakinema.authoring import Scene
from anakinema.bounded import read_regular
from anakinema.document import model
from anakinema.document.model import MOST_PICTURE
from anakinema.edits import fresh_id, scaled_by
from anakinema.errors import AnakinemaError, FileFormatError
from anakinema.expressions import quantity_in
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import Tool
from anakinema.ui.theme import Theme
from anakinema.units import LENGTH

LONGEST = 1600
"""Pixels; larger pictures are made smaller, tracing needs no more."""
MOST_PIXELS = 60_000_000
MOST_BYTES = 60_000_000
KINDS = {b"\x89PNG\r\n\x1a\n": b"png", b"\xff\xd8\xff": b"jpeg"}
"""What files of each kind begin with."""


def picture_from(path: Path, document: model.Document) -> model.Picture:
    """A picture from a PNG or JPEG file; raises `FileFormatError`."""
    content = read_regular(path, MOST_BYTES, "Choose a smaller picture.")
    image = decoded(content)
    if image.isNull():
        raise FileFormatError(
            f"it is no PNG or JPEG picture of at most {MOST_PIXELS // 10**6} million pixels.",
            where=f"file {path.name}",
            remedy="Choose another, or save it as PNG.",
        )
    if max(image.width(), image.height()) > LONGEST:
        image = image.scaled(
            QSize(LONGEST, LONGEST),
            Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
    for quality in (85, 60, 35):
        data = QByteArray()
        buffer = QBuffer(data)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        image.convertToFormat(QImage.Format.Format_RGB888).save(buffer, "JPEG", quality)  # type: ignore[call-overload]
        buffer.close()
        text = base64.b64encode(data.data()).decode()
        if len(text) <= MOST_PICTURE:
            break
    pixel = 300.0 / max(image.width(), 1)
    name = path.stem.encode("utf-8", "replace").decode()
    return model.Picture(
        id=fresh_id(name, [p.id for p in document.pictures]),
        name=name,
        data=text,
        x=f"{-image.width() * pixel / 2:.6g} mm",
        y=f"{-image.height() * pixel / 2:.6g} mm",
        pixel=f"{pixel:.6g} mm",
    )


def decoded(content: bytes) -> QImage:
    """A PNG or JPEG picture, by its content and nothing else; a null image for any other.

    Other formats can name files or run for ever, and a few bytes can stand for a huge picture.
    """
    kind = next((kind for start, kind in KINDS.items() if content.startswith(start)), None)
    if kind is None:
        return QImage()
    buffer = QBuffer()
    buffer.setData(QByteArray(content))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer, QByteArray(kind))
    reader.setDecideFormatFromContent(False)
    reader.setAutoTransform(True)
    size = reader.size()
    if not size.isValid() or size.width() * size.height() > MOST_PIXELS:
        return QImage()
    return reader.read()


def _image_of(picture: model.Picture) -> QImage:
    try:
        return decoded(base64.b64decode(picture.data))
    except ValueError:
        return QImage()


class PicturePainter:
    """Decodes each picture once and draws it where the document says."""

    def __init__(self) -> None:
        self._images: dict[int, tuple[str, QImage]] = {}

    def draw(self, painter: QPainter, view: QTransform, scene: Scene) -> None:
        """Draw all pictures of a scene under everything else."""
        for k, (picture, at) in enumerate(
            zip(scene.resolved.document.pictures, scene.resolved.pictures, strict=True)
        ):
            known = self._images.get(k)
            if known is None or known[0] is not picture.data:
                image = _image_of(picture)
                known = self._images[k] = (picture.data, image)
            image = known[1]
            if image.isNull():
                continue
            place = QTransform().translate(at.x, at.y).rotate(math.degrees(at.angle))
            place = (
                QTransform().scale(at.pixel, -at.pixel)
                * QTransform().translate(0, image.height() * at.pixel)
                * place
            )
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setOpacity(picture.opacity)
            painter.setTransform(place * view)
            painter.drawImage(0, 0, image)
            painter.restore()


class ScaleTool(Tool):
    """Click two points of the picture, then type how far apart they really are."""

    def __init__(self, stage: Surface, picture: str) -> None:
        super().__init__(stage)
        self._picture = picture
        self._first: tuple[float, float] | None = None
        self._at: Pointer | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        """The step at hand."""
        first = "Click one end of a length that you know"
        return first if self._first is None else "Click its other end"

    def press(self, at: Pointer) -> bool:
        return True

    def move(self, at: Pointer) -> None:
        self._at = at
        self.stage.update()

    def release(self, at: Pointer) -> None:
        if self._first is None:
            self._first = (at.x, at.y)
            return
        first, second = self._first, (at.x, at.y)
        self._first = None
        if math.dist(first, second) < 1e-6:
            return
        words, chosen = QInputDialog.getText(
            QApplication.activeWindow(),
            "Scale the picture",
            "How far apart are these two points really?",
        )
        if chosen:
            self.scale(first, second, words)

    def scale(self, first: tuple[float, float], second: tuple[float, float], words: str) -> None:
        """Scale the picture so that two points are a typed length apart."""
        scene = self.workbench.drawn_scene()
        if scene is None:
            return
        names = [p.id for p in scene.resolved.document.pictures]
        if self._picture not in names:
            self.workbench.use_tool("")
            return
        now = scene.resolved.pictures[names.index(self._picture)]
        try:
            length = quantity_in(words, LENGTH, scene.resolved.units, scene.resolved.names)
        except AnakinemaError as error:
            self.workbench.report(error)
            return
        if not length > 0:
            self.workbench.report("A length above zero is needed, for instance 120 mm.")
            return
        edit = scaled_by(self._picture, (now.x, now.y, now.pixel), first, second, length)
        self.workbench.do_once(edit)
        self.workbench.use_tool("")

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        if self._first is None or self._at is None:
            return
        painter.setPen(QPen(QColor(theme.accent), 1.8))
        painter.drawLine(view.map(QPointF(*self._first)), self._at.pixel)
