#!/usr/bin/python3
"""Writes the awkward files of this folder and expected.json, the reading that a person gives of each.

Run with Debian's python3-xlsxwriter and python3-openpyxl. Each function is one kind of trouble.
"""
import colorsys
import csv
import datetime as dt
import json
import os
import random

import openpyxl
import xlsxwriter
from openpyxl.comments import Comment
from openpyxl.styles import Font, PatternFill
from openpyxl.styles.colors import Color
from openpyxl.worksheet.datavalidation import DataValidation
from openpyxl.worksheet.table import Table

here = os.path.dirname(os.path.abspath(__file__))
rng = random.Random(7)
expected = []
OBJECTS = ["Brass sextant", "Signal lamp", "Ship's bell", "Tide clock", "Fog horn", "Fresnel lens", "Pilot's coat"]
VENUES = ["North Pier", "Annex", "Old Mill"]
D0 = dt.date(2026, 2, 2)


def at(path):
    return os.path.join(here, path)


def table(where, headers, rows, types, header_rows=1, **more):
    return {"range": where, "header_rows": header_rows, "headers": headers, "rows": rows, "types": dict(zip(headers, types)), **more}


def note(file, *sheets):
    expected.append({"file": file, "sheets": [{"name": name, "tables": tables} for name, tables in sheets]})


def book(name, **options):
    return xlsxwriter.Workbook(at(name), {"in_memory": True, **options})


def day(n):
    return dt.datetime.combine(D0 + dt.timedelta(days=n), dt.time())


def two_headers():
    wb = book("two-headers.xlsx")
    ws = wb.add_worksheet("Moves")
    date = wb.add_format({"num_format": "dd/mm/yyyy"})
    ws.merge_range("A1:A2", "Object")
    ws.merge_range("B1:C1", "Out")
    ws.merge_range("D1:E1", "Back")
    ws.write_row("B2", ["Date", "Van", "Date", "Van"])
    for i in range(12):
        ws.write(2 + i, 0, OBJECTS[i % 7])
        ws.write_datetime(2 + i, 1, day(i), date)
        ws.write(2 + i, 2, f"V{i % 3}")
        ws.write_datetime(2 + i, 3, day(i + 30), date)
        ws.write(2 + i, 4, f"V{i % 2}")
    # groups that are not merged, and a title above
    ws = wb.add_worksheet("Costs")
    ws.write("A1", "Freight by quarter")
    ws.write_row("A3", ["", "Planned", "", "Spent", ""])
    ws.write_row("A4", ["Leg", "Van", "Crate", "Van", "Crate"])
    for i in range(6):
        ws.write_row(4 + i, 0, [f"Leg {i}", 100 + i, 20 + i, 90 + i, 25 + i])
    # units below the names
    ws = wb.add_worksheet("Sizes")
    ws.write_row("A1", ["Object", "Height", "Weight", "Width"])
    ws.write_row("A2", ["", "(cm)", "(kg)", "(cm)"])
    for i in range(9):
        ws.write_row(2 + i, 0, [OBJECTS[i % 7], 30 + i, 2.5 * i + 1, 11 + i])
    wb.close()
    note("two-headers.xlsx",
         ("Moves", [table("A1:E14", ["Object", "Out Date", "Out Van", "Back Date", "Back Van"], 12, ["text", "date", "text", "date", "text"], 2)]),
         ("Costs", [table("A3:E10", ["Leg", "Planned Van", "Planned Crate", "Spent Van", "Spent Crate"], 6, ["text"] + ["number"] * 4, 2)]),
         ("Sizes", [table("A1:D11", ["Object", "Height (cm)", "Weight (kg)", "Width (cm)"], 9, ["text"] + ["number"] * 3, 2)]))


def gaps():
    wb = book("gaps.xlsx")
    date = wb.add_format({"num_format": "yyyy-mm-dd"})
    bold = wb.add_format({"bold": True})
    ws = wb.add_worksheet("Blank row")
    ws.write_row("A1", ["Object", "Venue", "Due", "Value"])
    for i in range(20):
        r = 1 + i + (1 if i >= 8 else 0)
        ws.write_row(r, 0, [OBJECTS[i % 7], VENUES[i % 3]])
        ws.write_datetime(r, 2, day(i), date)
        ws.write(r, 3, 100 * i + 50)
    ws = wb.add_worksheet("Stacked")
    ws.write_row("A1", ["Object", "Due", "Value"], bold)
    for i in range(5):
        ws.write(1 + i, 0, OBJECTS[i])
        ws.write_datetime(1 + i, 1, day(i), date)
        ws.write(1 + i, 2, 10 + i)
    ws.write_row("A8", ["Courier", "Phone", "Van"], bold)
    for i in range(4):
        ws.write_row(8 + i, 0, [f"Courier {i}", f"021 55{i}0", f"V{i}"])
    ws = wb.add_worksheet("Subtotals")
    ws.write_row("A1", ["Venue", "Object", "Fee"], bold)
    r, count = 1, 0
    for v in VENUES:
        start = r + 1
        for i in range(4):
            ws.write_row(r, 0, [v, OBJECTS[i], 10 * i + 5])
            r += 1
            count += 1
        ws.write(r, 0, f"{v} subtotal", bold)
        ws.write_formula(r, 2, f"=SUBTOTAL(9,C{start}:C{r})", bold, 80)
        r += 1
    last = r - 1
    ws.write(r, 0, "Grand total", bold)
    ws.write_formula(r, 2, f"=SUBTOTAL(9,C2:C{r})", bold, 240)
    ws = wb.add_worksheet("Far below")
    ws.write_row("A1", ["Object", "Crate", "Packed"])
    for i in range(300):
        if i < 10 or i >= 295:
            ws.write_row(1 + i, 0, [OBJECTS[i % 7], f"K-{i}"])
        ws.write_boolean(1 + i, 2, i < 5)
    ws = wb.add_worksheet("Headings")
    ws.write_row("A1", ["Object", "Wall", "Height"], bold)
    r = 1
    for v in VENUES:
        ws.merge_range(r, 0, r, 2, v, bold)
        r += 1
        for i in range(3):
            ws.write_row(r, 0, [OBJECTS[i], "ABC"[i], 100 + i])
            r += 1
    wb.close()
    note("gaps.xlsx",
         ("Blank row", [table("A1:D22", ["Object", "Venue", "Due", "Value"], 20, ["text", "text", "date", "number"])]),
         ("Stacked", [table("A1:C6", ["Object", "Due", "Value"], 5, ["text", "date", "number"]),
                      table("A8:C12", ["Courier", "Phone", "Van"], 4, ["text", "text", "text"])]),
         ("Subtotals", [table(f"A1:C{last}", ["Venue", "Object", "Fee"], count, ["text", "text", "number"])]),
         ("Far below", [table("A1:C301", ["Object", "Crate", "Packed"], 15, ["text", "text", "checkbox"])]),
         ("Headings", [table("A1:C13", ["Object", "Wall", "Height"], 9, ["text", "text", "number"])]))


def names():
    wb = book("names.xlsx")
    ws = wb.add_worksheet("Doubled")
    ws.write_row("A1", ["Name", "Value", "", "Name"])
    for i in range(6):
        ws.write_row(1 + i, 0, [OBJECTS[i], 10 * i + 1, f"x{i}", VENUES[i % 3]])
    ws = wb.add_worksheet("Header only")
    ws.write_row("B3", ["Object", "Lender", "Due"])
    ws = wb.add_worksheet("No header")
    for i in range(8):
        ws.write_row(i, 0, [f"L-{i:03d}", OBJECTS[i % 7], 100 + 7 * i, 1.5 * i + 1])
    wb.add_worksheet("Nothing")
    ws = wb.add_worksheet("Years")
    ws.write_row("A1", ["Venue", 2023, 2024, 2025])
    for i, v in enumerate(VENUES):
        ws.write_row(1 + i, 0, [v, 1200 + i, 15000 + i, 900 + 7 * i])
    ws = wb.add_worksheet("Übersicht '26 (対象)")
    ws.write_row("A1", ["Название", "数量", "Fällig"])
    for i in range(4):
        ws.write_row(1 + i, 0, [f"Предмет {i}", i + 1])
        ws.write_string(1 + i, 2, f"{i + 13:02d}.03.2026")
    hidden = wb.add_worksheet("Codes")
    hidden.hide()
    hidden.write_row("A1", ["Country", "Customs code"])
    for i in range(5):
        hidden.write_row(1 + i, 0, [f"Land {i}"])
        hidden.write_string(1 + i, 1, f"00{i}")
    wb.close()
    note("names.xlsx",
         ("Doubled", [table("A1:D7", ["Name", "Value", "Column C", "Name (2)"], 6, ["text", "number", "text", "text"])]),
         ("Header only", [table("B3:D3", ["Object", "Lender", "Due"], 0, ["text"] * 3)]),
         ("No header", [table("A1:D8", ["Column A", "Column B", "Column C", "Column D"], 8, ["text", "text", "number", "number"], 0)]),
         ("Nothing", []),
         ("Years", [table("A1:D4", ["Venue", "2023", "2024", "2025"], 3, ["text"] + ["number"] * 3)]),
         ("Übersicht '26 (対象)", [table("A1:C5", ["Название", "数量", "Fällig"], 4, ["text", "number", "date"])]),
         ("Codes", [table("A1:B6", ["Country", "Customs code"], 5, ["text", "text"])]))


def declared():
    wb = openpyxl.Workbook()
    ws = wb.active
    ws.title = "Too large"
    ws.append(["Object", "Lender", "Value"])
    for i in range(7):
        ws.append([OBJECTS[i], "Quillmoor Trust", 40 * i + 10])
    ws.add_table(Table(displayName="Loans", ref="A1:C40"))
    ws = wb.create_sheet("Too small")
    ws.append(["A list of vans"])
    ws.append(["Van", "Seats", "Bought"])
    for i in range(9):
        ws.append([f"V{i}", 2 + i % 4, dt.date(2020, 1 + i, 3)])
    ws.add_table(Table(displayName="Vans", ref="A2:C6"))
    ws = wb.create_sheet("Filtered")
    ws.append(["Words of all kinds", "and more", "stand", "above"])
    ws.append(["Object", "Venue", "State", "By"])
    for i in range(10):
        ws.append([OBJECTS[i % 7], VENUES[i % 3], "open", f"person{i}@example.org"])
    ws.auto_filter.ref = "A2:D12"
    for r in (4, 5, 8):
        ws.row_dimensions[r].hidden = True
    wb.save(at("declared.xlsx"))
    wb2 = book("declared-totals.xlsx")
    ws = wb2.add_worksheet("Costs")
    ws.add_table("B3:D10", {"name": "Costs", "total_row": True, "columns": [
        {"header": "Leg", "total_string": "All"}, {"header": "Carrier"}, {"header": "Cost", "total_function": "sum"}],
        "data": [[f"Leg {i}", "Ombra Vans", 10 * i + 3] for i in range(6)]})
    wb2.close()
    note("declared.xlsx",
         ("Too large", [table("A1:C8", ["Object", "Lender", "Value"], 7, ["text", "text", "number"])]),
         ("Too small", [table("A2:C11", ["Van", "Seats", "Bought"], 9, ["text", "number", "date"])]),
         ("Filtered", [table("A2:D12", ["Object", "Venue", "State", "By"], 10, ["text", "text", "text", "person"])]))
    note("declared-totals.xlsx", ("Costs", [table("B3:D9", ["Leg", "Carrier", "Cost"], 6, ["text", "text", "number"])]))


def kinds():
    wb = openpyxl.Workbook()
    ws = wb.active
    ws.title = "Kinds"
    heads = ["Ref", "Amount as text", "Share", "Fee", "When", "Hour", "Spoken", "Contact", "Stage", "Done", "Phone", "Map"]
    ws.append(heads)
    for i in range(15):
        ws.append([f"{i:04d}", str(7 * i + 95), 0.05 * i, 12.5 * i, dt.datetime(2026, 3, 1 + i, 8, 30), dt.time(8 + i % 10, 15),
                   f"{1 + i} March 2026", f"clerk{i}@example.org", ["Open", "Held", "Closed"][i % 3], i % 2 == 0, f"555-01{i:02d}", f"plan {i}"])
        row = ws[ws.max_row]
        row[2].number_format = "0.0%"
        row[3].number_format = '#,##0.00 [$€-407]'
        row[11].hyperlink = f"https://maps.example.org/{i}"
    ws["B9"] = "n/a"
    ws["A3"].comment = Comment("Kept in the safe.", "registrar")
    lists = wb.create_sheet("Lists")
    for i, s in enumerate(["Open", "Held", "Closed"]):
        lists.cell(i + 1, 1, s)
    dv = DataValidation(type="list", formula1="Lists!$A$1:$A$3")
    dv.add("I2:I400")
    ws.add_data_validation(dv)
    wb.save(at("kinds.xlsx"))
    old = book("dates-1904.xlsx", date_1904=True)
    ws = old.add_worksheet("Old")
    f = old.add_format({"num_format": "d mmm yyyy"})
    ws.write_row(0, 0, ["Object", "Lent"])
    for i in range(5):
        ws.write(1 + i, 0, OBJECTS[i])
        ws.write_datetime(1 + i, 1, day(i), f)
    old.close()
    note("kinds.xlsx",
         ("Kinds", [table("A1:L16", heads, 15, ["text", "number", "number", "number", "date-time", "text", "date", "person", "choice", "checkbox", "text", "link"],
                          choices={"Stage": ["Open", "Held", "Closed"]}, odd={"Amount as text": 1}, notes=[{"cell": "A3", "text": "Kept in the safe."}])]),
         ("Lists", []))
    note("dates-1904.xlsx", ("Old", [table("A1:B6", ["Object", "Lent"], 5, ["text", "date"], first={"Lent": "2026-02-02"})]))


def asides():
    wb = openpyxl.Workbook()
    ws = wb.active
    ws.title = "Board"
    ws["A1"] = "Prepared by:"
    ws["B1"] = "the registrars"
    ws["A2"] = "Date:"
    ws["B2"] = dt.date(2026, 3, 2)
    bold = Font(bold=True)
    for c, h in enumerate(["Object", "Venue", "Due", "Fee", "Remark"]):
        ws.cell(4, 1 + c, h).font = bold
    for i in range(11):
        for c, v in enumerate([OBJECTS[i % 7], VENUES[i % 3], D0 + dt.timedelta(days=i), 5.5 * i + 1, None if i % 4 else "fragile"]):
            ws.cell(5 + i, 1 + c, v)
    ws["A17"] = "* fees are without tax, and are paid within thirty days of the opening"
    ws["G4"] = "Legend"
    for i, (k, v) in enumerate([("red", "late"), ("amber", "soon"), ("green", "in time")]):
        ws.cell(5 + i, 7, k)
        ws.cell(5 + i, 8, v)
    ws2 = wb.create_sheet("Defaults")
    ws2.append(["Object", "Lender", "State", "Owner", "Value", "Seen"])
    for i in range(60):
        ws2.append([OBJECTS[i % 7], "Hask & Daughters", "Requested", f"owner {i}", 3 * i + 5, False] if i < 9 else [None, None, "Requested", None, None, False])
    ws3 = wb.create_sheet("Merged rows")
    ws3.append(["Venue", "Object", "Height"])
    for i in range(9):
        ws3.append([VENUES[i // 3] if i % 3 == 0 else None, OBJECTS[i % 7], 100 + i])
    for i in range(3):
        ws3.merge_cells(start_row=2 + 3 * i, end_row=4 + 3 * i, start_column=1, end_column=1)
    wb.save(at("asides.xlsx"))
    note("asides.xlsx",
         ("Board", [table("A4:E15", ["Object", "Venue", "Due", "Fee", "Remark"], 11, ["text", "text", "date", "number", "text"])]),
         ("Defaults", [table("A1:F10", ["Object", "Lender", "State", "Owner", "Value", "Seen"], 9, ["text", "text", "text", "text", "number", "checkbox"])]),
         ("Merged rows", [table("A1:C10", ["Venue", "Object", "Height"], 9, ["text", "text", "number"], filled="Venue")]))


def wide_and_long():
    wb = book("wide-long.xlsx", constant_memory=False)
    ws = wb.add_worksheet("Wide")
    heads = [f"Reading {i + 1}" for i in range(120)]
    ws.write_row(0, 0, heads)
    for i in range(12):
        ws.write_row(1 + i, 0, [i * 120 + c + 1 for c in range(120)])
    ws = wb.add_worksheet("Long")
    ws.write_row(0, 0, ["No", "Object"])
    for i in range(20000):
        ws.write_row(1 + i, 0, [i + 1, OBJECTS[i % 7]])
    wb.close()
    note("wide-long.xlsx",
         ("Wide", [table("A1:DP13", heads, 12, ["number"] * 120)]),
         ("Long", [table("A1:B20001", ["No", "Object"], 20000, ["number", "text"])]))


def commas():
    with open(at("tabs-utf16.csv"), "w", encoding="utf-16", newline="") as f:
        w = csv.writer(f, delimiter="\t", lineterminator="\r\n")
        w.writerow(["Лот", "Цена", "Дата", "Оплачено"])
        for i in range(8):
            w.writerow([f"№ {i}", f"1 {200 + i},50", f"{13 + i}/02/2026", ["yes", "no"][i % 2]])
    note("tabs-utf16.csv", ("", [table("A1:D9", ["Лот", "Цена", "Дата", "Оплачено"], 8, ["text", "number", "date", "checkbox"])]))
    with open(at("told.csv"), "w", encoding="utf-8", newline="") as f:
        f.write("sep=|\r\nObject|Size|Phone|Web\r\n")
        for i in range(6):
            f.write(f'"{OBJECTS[i]}, ""{i}"""|{i},5|+351 21 000 0{i}|https://example.org/{i}\r\n')
    note("told.csv", ("", [table("A2:D8", ["Object", "Size", "Phone", "Web"], 6, ["text", "number", "text", "link"])]))
    with open(at("bare.csv"), "w", encoding="utf-8", newline="") as f:
        for i in range(9):
            f.write(f"L-{i:03d},{OBJECTS[i % 7]},{12.5 * i},2026-03-{i + 1:02d}\n")
    note("bare.csv", ("", [table("A1:D9", ["Column A", "Column B", "Column C", "Column D"], 9, ["text", "text", "number", "date"], 0)]))
    with open(at("american.csv"), "w", encoding="utf-8", newline="") as f:
        w = csv.writer(f, lineterminator="\n")
        w.writerow(["Order", "Placed", "Amount", "Owed", "Version", "Zip"])
        for i in range(14):
            w.writerow([f"A{i}", f"{1 + i % 12}/{14 + i}/2025", f"${1000 + i:,}.00", f"({i + 1}.25)", f"1.{i}.2", f"{10000 + 37 * i}"])
    note("american.csv", ("", [table("A1:F15", ["Order", "Placed", "Amount", "Owed", "Version", "Zip"], 14, ["text", "date", "number", "number", "text", "text"])]))


def more_headers():
    wb = book("more-headers.xlsx")
    bold = wb.add_format({"bold": True})
    ws = wb.add_worksheet("Units")
    ws.write_row(0, 0, ["Object", "Weight", "Note"])
    ws.write_row(1, 0, ["", "(kg)", ""])
    for i in range(8):
        ws.write_row(2 + i, 0, [f"Object {i}", i + 1.5, f"note {i}"])
    ws = wb.add_worksheet("Weeks")
    ws.write_row(0, 0, ["Hall", 1, 2, 3, 4])
    for i in range(4):
        ws.write_row(1 + i, 0, [f"Hall {i}", 10 + i, 20 + i, 31 + i, 47 + i])
    ws = wb.add_worksheet("Merged")
    ws.write("A1", "Object", bold)
    ws.merge_range("B1:C1", "Size", bold)
    for i in range(6):
        ws.write_row(1 + i, 0, [f"Object {i}", i + 10, i + 20])
    ws = wb.add_worksheet("Filled down")
    ws.write_row(0, 0, ["Object", "State", "Done", "Stars", "Sum", "Text"], bold)
    for i in range(300):
        if i < 12:
            ws.write(1 + i, 0, f"Object {i}")
        ws.write(1 + i, 1, "Open" if i >= 12 else ["Open", "Held"][i % 2])
        ws.write_boolean(1 + i, 2, i < 12 and i % 2 == 0)
        ws.write(1 + i, 3, 0 if i >= 12 else 3)
        ws.write_formula(1 + i, 4, "=SUM(D$2:D2)", None, 3 * min(i + 1, 12))
        ws.write_formula(1 + i, 5, '=IF(A2="","","x")', None, "x" if i < 12 else "")
    ws.data_validation(1, 1, 300, 1, {"validate": "list", "source": ["Open", "Held"]})
    ws = wb.add_worksheet("All formulas")
    ws.write_row(0, 0, ["Object", "Value"])
    for i in range(20):
        ws.write_formula(1 + i, 0, f"=Weeks!A{i}", None, f"Object {i}" if i < 12 else "")
        ws.write_formula(1 + i, 1, f"=Weeks!B{i}", None, i if i < 12 else "")
    wb.close()
    note("more-headers.xlsx",
         ("Units", [table("A1:C10", ["Object", "Weight (kg)", "Note"], 8, ["text", "number", "text"], 2)]),
         ("Weeks", [table("A1:E5", ["Hall", "1", "2", "3", "4"], 4, ["text"] + ["number"] * 4)]),
         ("Merged", [table("A1:C7", ["Object", "Size", "Size (2)"], 6, ["text", "number", "number"])]),
         ("Filled down", [table("A1:F13", ["Object", "State", "Done", "Stars", "Sum", "Text"], 12, ["text", "choice", "checkbox", "number", "number", "text"])]),
         ("All formulas", [table("A1:B13", ["Object", "Value"], 12, ["text", "number"])]))


def more_commas():
    with open(at("ends-in-total.csv"), "w", encoding="utf-8", newline="") as f:
        f.write('"Report of 3 March"\n\nObject,Qty,Total\nBell,2,10.50\nHorn,3,7.25\n\nTotal,5,17.75\n')
    note("ends-in-total.csv", ("", [table("A3:C5", ["Object", "Qty", "Total"], 2, ["text", "number", "number"])]))
    with open(at("krone.csv"), "w", encoding="cp1252", newline="") as f:
        f.write("Navn|Beløb|Dato|Tlf\r\nÆble|1 234,50 kr|2. januar 2026|91 23 45 67\r\nØl|99,00 kr|3. januar 2026|91 23 45 68\r\n")
    note("krone.csv", ("", [table("A1:D3", ["Navn", "Beløb", "Dato", "Tlf"], 2, ["text", "number", "date", "text"])]))
    with open(at("no-mark-utf16.csv"), "w", encoding="utf-16-le", newline="") as f:
        f.write("Object;When;Paid\r\n")
        for i in range(5):
            f.write(f"{OBJECTS[i]};{1 + i} Mar 2026 08:3{i};TRUE\r\n")
    note("no-mark-utf16.csv", ("", [table("A1:C6", ["Object", "When", "Paid"], 5, ["text", "date-time", "checkbox"])]))


def tinted(rgb, tint):
    """A colour made lighter or darker as ECMA-376, 18.3.1.19 has it."""
    h, l, s = colorsys.rgb_to_hls(*(int(rgb[i:i + 2], 16) / 255 for i in (0, 2, 4)))
    l = l * (1 + tint) if tint < 0 else l * (1 - tint) + tint
    return "#" + "".join(f"{round(255 * v):02X}" for v in colorsys.hls_to_rgb(h, l, s))


def looks():
    """Cells that people have painted, struck or put in bold; and what only seems so."""
    wb = book("looks.xlsx")
    ws = wb.add_worksheet("Painted")
    head = wb.add_format({"bold": True, "bg_color": "#1F3864", "font_color": "#FFFFFF"})
    urgent = wb.add_format({"bg_color": "#FFC7CE", "font_color": "#9C0006"})
    done = wb.add_format({"font_strikeout": True, "italic": True})
    late = wb.add_format({"bold": True, "num_format": "dd/mm/yyyy"})
    paper = wb.add_format({"bg_color": "#FFFFFF", "font_color": "#000000"})
    wash = wb.add_format({"bg_color": "#E2EFDA"})
    ws.write_row("A1", ["Object", "Due", "Fee", "Plan"], head)
    for i in range(6):
        ws.write(1 + i, 0, OBJECTS[i], [None, urgent, done, paper, None, None][i])
        ws.write_datetime(1 + i, 1, day(i), late if i == 2 else wb.add_format({"num_format": "dd/mm/yyyy"}))
        ws.write(1 + i, 2, 100 + i, wb.add_format({"num_format": "0.00", "bg_color": "#FFFF00"}) if i == 4 else None)
        ws.write_url(1 + i, 3, f"https://plans.example.org/{i}", None, f"plan {i}")
    ws.write_blank(3, 2, None, wash)
    for row in range(7, 400):  # painted far beyond what the sheet holds
        for col in range(8):
            ws.write_blank(row, col, None, wash)
    wb.close()
    wb = openpyxl.Workbook()
    ws = wb.active
    ws.title = "Themes"
    ws.append(["Object", "Hall"])
    for i in range(7):
        ws.append([OBJECTS[i], VENUES[i % 3]])

    def fill(cell, **colour):
        ws[cell].fill = PatternFill("solid", fgColor=Color(**colour))

    fill("A2", theme=4)
    fill("A3", theme=4, tint=0.7999816888943144)
    fill("A4", theme=4, tint=-0.249977111117893)
    fill("A5", indexed=43)
    fill("A6", indexed=64)
    ws["A7"].fill = PatternFill("gray125")
    ws["B2"].font = Font(color=Color(theme=1))
    ws["B3"].font = Font(color=Color(theme=5), b=True)
    ws["B4"].font = Font(color="FF00B050")
    ws["B5"].font = Font(color=Color(indexed=10), strike=True)
    wb.save(at("looks-themes.xlsx"))
    note("looks.xlsx", ("Painted", [table("A1:D7", ["Object", "Due", "Fee", "Plan"], 6, ["text", "date", "number", "link"], looks=[
        {"cell": "A3", "look": "fill #FFC7CE, ink #9C0006"}, {"cell": "A4", "look": "italic, struck"}, {"cell": "B4", "look": "bold"},
        {"cell": "C4", "look": "fill #E2EFDA"}, {"cell": "C6", "look": "fill #FFFF00"}])]))
    note("looks-themes.xlsx", ("Themes", [table("A1:B8", ["Object", "Hall"], 7, ["text", "text"], looks=[
        {"cell": "A2", "look": "fill #4F81BD"}, {"cell": "A3", "look": "fill " + tinted("4F81BD", 0.7999816888943144)}, {"cell": "A4", "look": "fill " + tinted("4F81BD", -0.249977111117893)},
        {"cell": "A5", "look": "fill #FFFF99"}, {"cell": "B3", "look": "ink #C0504D, bold"}, {"cell": "B4", "look": "ink #00B050"},
        {"cell": "B5", "look": "ink #FF0000, struck"}])]))


for make in (two_headers, gaps, names, declared, kinds, asides, wide_and_long, commas, more_headers, more_commas, looks):
    make()
with open(at("expected.json"), "w", encoding="utf-8") as f:
    json.dump(expected, f, indent=1, ensure_ascii=False)
    f.write("\n")
