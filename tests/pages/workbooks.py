"""Workbooks written by hand, to be broken in ways that no library writes them."""

import zipfile
from pathlib import Path

_TYPES = """<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
<Default Extension="xml" ContentType="application/xml"/>
<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/>
<Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>
<Override PartName="/xl/sharedStrings.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sharedStrings+xml"/>
</Types>"""
_RELATION = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_RELATIONS = '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">{}</Relationships>'
_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
SHEET = (
    '<row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1" t="s"><v>1</v></c><c r="C1" t="s"><v>2</v></c></row>'
    '<row r="2"><c r="A2" t="s"><v>3</v></c><c r="B2" t="s"><v>4</v></c><c r="C2"><v>12345678901234567890</v></c></row>'
    '<row r="3"><c r="A3"><v>7</v></c><c r="B3" t="s"><v>4</v></c><c r="C3"><v>1.5e-7</v></c></row>'
)
TEXTS = ("SKU", "Name", "Size", "A", "Cleat")


def write_workbook(path: Path, sheet: str = SHEET, texts: str = "") -> None:
    """Write a workbook of one sheet.

    Args:
        path: where to.
        sheet: its rows.
        texts: XML of further texts that cells share.
    """
    shared = "".join(f"<si><t>{text}</t></si>" for text in TEXTS) + texts
    parts = {
        "[Content_Types].xml": _TYPES,
        "_rels/.rels": _RELATIONS.format(f'<Relationship Id="r1" Type="{_RELATION}/officeDocument" Target="xl/workbook.xml"/>'),
        "xl/workbook.xml": f'<workbook xmlns="{_MAIN}" xmlns:r="{_RELATION}"><sheets><sheet name="Stock" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": _RELATIONS.format(
            f'<Relationship Id="r1" Type="{_RELATION}/worksheet" Target="worksheets/sheet1.xml"/>'
            f'<Relationship Id="r2" Type="{_RELATION}/sharedStrings" Target="sharedStrings.xml"/>'
        ),
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{_MAIN}"><sheetData>{sheet}</sheetData></worksheet>',
        "xl/sharedStrings.xml": f'<sst xmlns="{_MAIN}">{shared}</sst>',
    }
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in parts.items():
            archive.writestr(name, text)
