"""Pages of the handbook on what no single word stands for."""

from __future__ import annotations

from .records import Topic, lines

IDEAS = (
    Topic(
        name="reading files",
        usage=('table NAME from "FILE"', "2.50(5)   2.50±0.05   45 %   1.5D+03   06:30   49:15:00   2031-05-02T06:00+02:00"),
        summary="how a file becomes a table: found out by all of it, told where it is doubtful, and never changed",
        example=lines(
            "table spring:",
            "    force [N]   stretch [mm]",
            "    0.50(2)     1.30±0.05",
            "    1.00(2)     2.41±0.05",
            "    1.50(2)     3.62±0.05",
            "",
            "show mean(spring.stretch/spring.force)",
        ),
        common_words=(
            "import, csv, excel, spreadsheet, workbook, decimal comma, thousands separator, dates, missing values, -999, header, "
            "units row, encoding, delimiter, semicolon"
        ),
        more=(
            "Decimal sign: the cells of the whole file decide. A number that can be read by one sign only (1,5 or 0,250 or 1.234,5)"
            " tells; where none does, a comma is the decimal sign if semicolons, tabs or blanks divide the cells, and the other "
            "reading is offered.",
            "Heads: the table begins at the first row in which every column of numbers holds numbers; the row above names the "
            "columns. Titles and remarks may stand above, a row of units below the heads, or units in the heads: h [cm], h (cm), h "
            "/ cm, h in cm.",
            "Cells: 2.50(5) and 2.50±0.05 carry one standard uncertainty, which goes wherever the column goes. 45 % and 2.5 cm "
            "carry their unit. 1.5D+03 is 1500. An empty cell, n/a, nan, gap and a dash are gaps.",
            "Times: dates are counted from the first midnight, times of day from midnight, running times such as 49:15:00 from "
            "their start; a zone (+02:00, Z) is turned into universal time.",
            "Doubts are told on the import sheet, above the table and in the record of every run, each with the other reading "
            "beside it: dates that may be day/month or month/day, −999 far from all other numbers, the same head twice, whole "
            "numbers with more than 15 digits, formulas without results, a column that is read as text, with the first cell that is"
            " to blame.",
            "What cannot be read becomes a gap, and is told with its row. The file stays as it came; how it was read is part of the"
            " record.",
        ),
    ),
)
