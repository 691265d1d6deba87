#!/usr/bin/python3
"""Writes the corpus of this folder: each layout by four programs that write workbooks, and
expected.json, the reading that a person gives of each.

Run with Debian's python3-openpyxl, python3-xlsxwriter, libexcel-writer-xlsx-perl and gnumeric.
A layout is a function that gives its sheets, as cells by their names, and the tables that a
person sees in them. A text that begins with = is a formula; a header is in bold where said.
"""
import datetime as dt
import json
import os
import re
import subprocess

import openpyxl
import xlsxwriter
from openpyxl.styles import Font

here = os.path.dirname(os.path.abspath(__file__))
D = dt.date


def table(where, headers, rows, types, header_rows=1, **more):
    return {"range": where, "header_rows": header_rows, "headers": headers, "rows": rows, "types": dict(zip(headers, types)), **more}


def rows(top, *lines, left="A"):
    cells = {}
    for i, line in enumerate(lines):
        for j, v in enumerate(line):
            if v is not None:
                cells[chr(ord(left) + j) + str(top + i)] = v
    return cells


def plain():
    cells = rows(1, ["Loan no", "Object", "Fee", "Due", "Packed"], ["L-1", "Bell", 5.5, D(2026, 3, 1), True], ["L-2", "Horn", 7, D(2026, 3, 2), False], ["L-3", "Lamp", 0, D(2026, 3, 3), True])
    return {"Loans": (cells, [table("A1:E4", ["Loan no", "Object", "Fee", "Due", "Packed"], 3, ["text", "text", "number", "date", "checkbox"], first={"Object": "Bell", "Fee": "5.5"})])}


def titled():
    cells = {"A1": "Costs of the tour", **rows(3, ["Leg", "Hall", "Cost"], ["One", "Pier", 5], ["Two", "Mill", 7], ["Tri", "Quay", 9]), "A6": "Tri", "A8": "Total", "C8": "=SUM(C4:C6)", "A10": "Figures without tax, as of the end of the month."}
    return {"Costs": (cells, [table("A3:C6", ["Leg", "Hall", "Cost"], 3, ["text", "text", "number"])])}


def zeros():
    return {"Counts": (rows(1, ["Jan", "Feb", "Mar"], [0, 0, 0], [4, 5, 6], [0, 0, 0], [7, 8, 9]), [table("A1:C5", ["Jan", "Feb", "Mar"], 4, ["number"] * 3)])}


def beside():
    cells = {**rows(1, ["Person", "Room"], ["Ann", 5], ["Ben", 6], ["Cid", 7]), **rows(1, ["Van", "Seats"], ["V1", 3], ["V2", 9], left="D")}
    return {"Board": (cells, [table("A1:B4", ["Person", "Room"], 3, ["text", "number"]), table("D1:E3", ["Van", "Seats"], 2, ["text", "number"])])}


def parted():
    cells = rows(1, ["Object", "Hall", None, "Fee", "Due"], ["Bell", "Pier", None, 5, D(2026, 3, 1)], ["Horn", "Mill", None, 6, D(2026, 3, 2)], ["Lamp", "Quay", None, 7, D(2026, 3, 3)])
    return {"List": (cells, [table("A1:E4", ["Object", "Hall", "Column C", "Fee", "Due"], 3, ["text", "text", "text", "number", "date"])])}


def years():
    return {"Visitors": (rows(1, [None, 2024, 2025], ["Pier", 1200, 900], ["Mill", 15000, 800]), [table("A1:C3", ["Column A", "2024", "2025"], 2, ["text", "number", "number"])])}


def form():
    return {"Venue": (rows(1, ["Name", "North Pier"], ["Opens", D(2026, 3, 1)], ["Seats", 120], ["Contact", "a@example.org"], ["Step free", True]), [])}


def summary():
    cells = {**rows(1, ["Open", 5], ["Closed", 7]), **rows(3, ["Object", "Hall", "Fee"], ["Bell", "Pier", 5], ["Horn", "Mill", 6], ["Lamp", "Quay", 8])}
    return {"Report": (cells, [table("A3:C6", ["Object", "Hall", "Fee"], 3, ["text", "text", "number"])])}


def running():
    cells = rows(1, ["Leg", "Amount", "Balance"], ["One", 5, "=B2"], ["Two", 7, "=C2+B3"], ["Tri", 9, "=C3+B4"])
    return {"Ledger": (cells, [table("A1:C4", ["Leg", "Amount", "Balance"], 3, ["text", "number", "number"], first={"Balance": "5"}, filled="Balance")])}


def bare_formulas():
    cells = rows(1, ["Bell", 5, "=B1*2"], ["Horn", 7, "=B2*2"], ["Lamp", 9, "=B3*2"])
    return {"Sheet": (cells, [table("A1:C3", ["Column A", "Column B", "Column C"], 3, ["text", "number", "number"], header_rows=0, first={"Column C": "10"})])}


def words():
    cells = rows(1, ["Task", "Hours", "Who"], ["Verify invoice total", 3, "Ann"], ["Total station", 2, "Ben"], ["Count", 4, "Cid"], ["Send", 1, "Ann"])
    return {"Tasks": (cells, [table("A1:C5", ["Task", "Hours", "Who"], 4, ["text", "number", "text"])])}


def last_note():
    cells = rows(1, ["Object", "Hall", "Fee"], ["Bell", "Pier", 5], ["Horn", "Mill", 6], ["Lamp", "Quay", 7], ["Notebook"])
    return {"Stock": (cells, [table("A1:C5", ["Object", "Hall", "Fee"], 4, ["text", "text", "number"])])}


def codes():
    cells = rows(1, ["Ref", "Release", "Fee"], ["007", "1.1", 5], ["012", "1.10", 6], ["130", "1.9", 7], ["004", "2.0.1", 8])
    return {"Codes": (cells, [table("A1:C5", ["Ref", "Release", "Fee"], 4, ["text", "text", "number"], first={"Ref": "007", "Release": "1.1"})])}


def siblings():
    head = ["Object", "Fee", "Due"]
    return {"March": (rows(1, head, ["Bell", 5, D(2026, 3, 1)], ["Horn", 6, D(2026, 3, 2)]), [table("A1:C3", head, 2, ["text", "number", "date"])]),
            "April": (rows(1, head), [table("A1:C1", head, 0, ["text", "number", "date"])])}


def subtotals():
    cells = rows(1, ["Hall", "Object", "Fee"], ["Pier", "Bell", 5], ["Pier", "Horn", 6], ["Subtotal", None, 11], ["Mill", "Lamp", 7], ["Subtotal", None, 7], ["Grand total", None, 18])
    return {"Fees": (cells, [table("A1:C5", ["Hall", "Object", "Fee"], 3, ["text", "text", "number"])])}


def gap():
    cells = {**rows(1, ["Object", "Hall", "Fee"]), **rows(3, ["Bell", "Pier", 5], ["Horn", "Mill", 6], ["Lamp", "Quay", 7])}
    return {"List": (cells, [table("A1:C5", ["Object", "Hall", "Fee"], 3, ["text", "text", "number"])])}


LAYOUTS = [plain, titled, zeros, beside, parted, years, form, summary, running, bare_formulas, words, last_note, codes, siblings, subtotals, gap]


def by_openpyxl(path, sheets):
    wb = openpyxl.Workbook()
    wb.remove(wb.active)
    for name, (cells, _) in sheets.items():
        ws = wb.create_sheet(name)
        for at, v in cells.items():
            ws[at] = v
            if isinstance(v, dt.date):
                ws[at].number_format = "dd/mm/yyyy"
    wb.save(path)


def by_xlsxwriter(path, sheets):
    wb = xlsxwriter.Workbook(path, {"in_memory": True})
    date = wb.add_format({"num_format": "yyyy-mm-dd"})
    for name, (cells, _) in sheets.items():
        ws = wb.add_worksheet(name)
        for at, v in cells.items():
            if isinstance(v, dt.date):
                ws.write_datetime(at, dt.datetime.combine(v, dt.time()), date)
            elif isinstance(v, str) and not v.startswith("="):
                ws.write_string(at, v)
            else:
                ws.write(at, v)
    wb.close()


PERL = r'''
use strict; use warnings; use Excel::Writer::XLSX; use JSON::PP; local $/;
my $in = decode_json(<STDIN>);
my $wb = Excel::Writer::XLSX->new($ARGV[0]);
my $date = $wb->add_format(num_format => 'd mmm yyyy');
for my $s (@{$in}) {
  my $ws = $wb->add_worksheet($s->{name});
  for my $c (@{$s->{cells}}) {
    my ($at, $kind, $v) = @{$c};
    if ($kind eq 'date') { $ws->write_date_time($at, $v . 'T', $date) }
    elsif ($kind eq 'bool') { $ws->write_boolean($at, $v) }
    elsif ($kind eq 'formula') { $ws->write_formula($at, $v) }
    elsif ($kind eq 'number') { $ws->write_number($at, $v) }
    else { $ws->write_string($at, $v) }
  }
}
$wb->close();
'''


def by_perl(path, sheets):
    def kind(v):
        if isinstance(v, bool):
            return ["bool", int(v)]
        if isinstance(v, dt.date):
            return ["date", v.isoformat()]
        if isinstance(v, (int, float)):
            return ["number", v]
        return ["formula" if v.startswith("=") else "text", v]
    doc = [{"name": n, "cells": [[at, *kind(v)] for at, v in cells.items()]} for n, (cells, _) in sheets.items()]
    subprocess.run(["perl", "-e", PERL, path], input=json.dumps(doc), text=True, check=True)


def by_gnumeric(path, sheets):
    first = path + ".first.xlsx"
    by_openpyxl(first, sheets)
    subprocess.run(["ssconvert", "--recalc", first, path], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    os.remove(first)


def main():
    expected = []
    for layout in LAYOUTS:
        for name, write in (("openpyxl", by_openpyxl), ("xlsxwriter", by_xlsxwriter), ("perl", by_perl), ("gnumeric", by_gnumeric)):
            sheets = layout()
            file = layout.__name__.replace("_", "-") + "-" + name + ".xlsx"
            write(os.path.join(here, file), sheets)
            expected.append({"file": file, "sheets": [{"name": n, "tables": tables} for n, (_, tables) in sheets.items()]})
    with open(os.path.join(here, "expected.json"), "w") as f:
        json.dump(expected, f, indent=1, default=str)
        f.write("\n")


main()
