"""The motion and the parts list as a spreadsheet, with a chart."""

from __future__ import annotations

import io
from datetime import datetime
from typing import Any

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation
from anakinema.record.listed_parts import HEADER, cells, whole_list
from anakinema.record.table import motion_table

MOST_CURVES = 8
"""Joints that the chart shows."""
# What a cell begins with must not make a formula or a link of it.
PLAIN = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False}


def workbook(evaluation: Evaluation) -> bytes:
    """An xlsx file; the same bytes for the same evaluation."""
    import xlsxwriter  # slow to import, so not at start

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, PLAIN)
    book.set_properties({"title": evaluation.document.name, "created": datetime(2000, 1, 1)})
    strong = book.add_format({"bold": True})
    _motion(book, evaluation, strong)
    sheet = book.add_worksheet("Parts")
    sheet.write_row(0, 0, HEADER, strong)
    for k, row in enumerate(whole_list(evaluation.resolved), start=1):
        for column, cell in enumerate(cells(row)):
            if cell is not None:
                sheet.write(k, column, cell)
    sheet.set_column(1, 1, 28)
    sheet.freeze_panes(1, 0)
    book.close()
    return out.getvalue()


def _motion(book: Any, evaluation: Evaluation, strong: Any) -> None:
    header, rows = motion_table(evaluation)
    sheet = book.add_worksheet("Motion")
    sheet.write_row(0, 0, header, strong)
    for k, row in enumerate(rows.tolist(), start=1):
        for column, value in enumerate(row):
            if np.isfinite(value):
                sheet.write_number(k, column, value)
    sheet.freeze_panes(1, 1)
    moving = [
        j
        for j, joint in enumerate(evaluation.document.joints)
        if spec_of(joint.kind).moves and np.ptp(evaluation.motion.values[:, j]) > 0
    ]
    if not moving or len(rows) < 2:
        return
    chart = book.add_chart({"type": "scatter", "subtype": "straight"})
    for j in moving[:MOST_CURVES]:
        column = 2 + 3 * j
        chart.add_series(
            {
                "name": ["Motion", 0, column],
                "categories": ["Motion", 1, 1, len(rows), 1],
                "values": ["Motion", 1, column, len(rows), column],
            }
        )
    chart.set_x_axis({"name": "time, s"})
    chart.set_size({"width": 900, "height": 480})
    charts = book.add_worksheet("Curves")
    charts.insert_chart(0, 0, chart)
