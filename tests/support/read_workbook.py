"""Tells a workbook as JSON, read by another library: sheets with the values, types and formats of their cells."""
import json
import sys

import openpyxl

book = openpyxl.load_workbook(sys.argv[1])
told = {}
for sheet in book:
    rows = [[None if cell.value is None else {"value": str(cell.value), "type": cell.data_type, "format": cell.number_format}
             for cell in row] for row in sheet.iter_rows()]
    told[sheet.title] = {"rows": rows, "frozen": sheet.freeze_panes, "filter": sheet.auto_filter.ref}
json.dump(told, sys.stdout)
