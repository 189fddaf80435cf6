"""Shapes of requests and answers; the OpenAPI description and the page's TypeScript types come from these."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ..core.language.syntax.parser import MAX_SCRIPT_CHARACTERS
from ..files.formats import DPIS
from ..store.folios import MAX_TITLE


def _encodable(text: str) -> str:
    """Half a surrogate pair is no text: no database and no file could hold it."""
    text.encode("utf-8")
    return text


Script = Annotated[str, Field(max_length=2 * MAX_SCRIPT_CHARACTERS), AfterValidator(_encodable)]
Title = Annotated[str, Field(max_length=MAX_TITLE), AfterValidator(_encodable)]


# Plain data in the shapes of the record: worked out by the core, and not looked at again here.
RunData = Annotated[dict[str, Any], Field(json_schema_extra={"x-schema": "RunRecord"})]
FigureInRecord = Annotated[dict[str, Any], Field(json_schema_extra={"x-schema": "FigureRecord"})]
Layout = Annotated[dict[str, Any], Field(json_schema_extra={"x-schema": "LayoutRecord"})]
EditData = Annotated[dict[str, Any], Field(json_schema_extra={"x-schema": "EditRecord"})]
MessageData = Annotated[dict[str, Any], Field(json_schema_extra={"x-schema": "MessageRecord"})]


class Request(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Session(BaseModel):
    """`notice`: what everybody should know, such as that the disk is almost full; empty where all is well."""

    csrf_token: str
    version: str
    notice: str


class Thumbnail(BaseModel):
    record_id: int
    figure: str


class FolioCard(BaseModel):
    """A folio as it stands on the shelf. `example`: what it shows, of those that came with the application."""

    id: int
    title: str
    version: int
    changed_at: str
    thumbnail: Thumbnail | None = None
    example: str = ""


class DeletedFolio(FolioCard):
    deleted_at: str


class DeletedShelf(BaseModel):
    """days: for how long a deleted folio can be taken back."""

    folios: list[DeletedFolio]
    days: int


class Shelf(BaseModel):
    folios: list[FolioCard]


class KeptRecord(BaseModel):
    """A record with its place in the folio."""

    id: int
    number: int
    same_as: int | None
    created_at: str
    script_is_current: bool
    record: RunData


class Folio(FolioCard):
    """A folio on the desk: its script, and the latest record if there is one."""

    script: str
    latest: KeptRecord | None = None


class NewFolio(Request):
    title: Title = ""
    script: Script = ""


class Change(Request):
    """What is to change; `version` is the one that the change was made from."""

    version: int
    title: Title | None = None
    script: Script | None = None


class NewRun(Request):
    """`part`: only this part and what it needs; with `onwards` what follows it too."""

    script: Script
    version: int
    part: Annotated[str, Field(max_length=500)] | None = None
    onwards: bool = False


class Stop(Request):
    """A line at which a walk stops, where it says so only if the condition holds."""

    line: int
    condition: Annotated[str, Field(max_length=500)] | None = None


class NewWalk(Request):
    script: Script
    stops: Annotated[list[Stop], Field(max_length=200)] = []


class HandAction(Request):
    """Something done by hand on the stage: what, at which line, and what it says."""

    do: Annotated[str, Field(max_length=20)]
    line: int
    more: dict[str, Any] = {}


class Inking(Request):
    script: Script
    actions: Annotated[list[HandAction], Field(max_length=60)] = []


class DressingAsked(Request):
    """What the script says of a drawn thing: the lines of its statement, of its window and of its figure."""

    script: Script
    line: int
    window: int
    figure: int


class FitsAsked(Request):
    """Fits for the points that a line draws. `formula`: one's own, in x. `at`: a place where each is asked for its value."""

    script: Script
    line: int
    formula: Annotated[str, Field(max_length=500)] | None = None
    starts: dict[str, float] = {}
    at: float | None = None


class FitsFound(BaseModel):
    """`x`, `y`: the points, thinned for pictures; `of`, `against`: how the script writes them."""

    x: list[float]
    y: list[float]
    points: int
    of: str
    against: str
    has_errors: bool
    fits: list[dict[str, Any]]


class DrawnFigure(BaseModel):
    """A figure with its drawing."""

    figure: FigureInRecord
    svg: str


class Preview(BaseModel):
    """A run that is not kept: its record, the figures that were drawn anew, and the edits that the actions are."""

    record: RunData
    figures: list[DrawnFigure]
    edits: list[EditData] = []


class Seen(Request):
    """From where a window on space is seen, in degrees."""

    panel: Annotated[int, Field(ge=0, le=999)]
    azimuth: Annotated[float, Field(ge=-360, le=360)]
    elevation: Annotated[float, Field(ge=-90, le=90)]


class Turned(Request):
    """Windows on space of a kept figure, to be seen from elsewhere."""

    views: Annotated[list[Seen], Field(min_length=1, max_length=100)]


class TurnedFigure(BaseModel):
    """The drawing from there, and where things stand in it."""

    layout: Layout
    svg: str


class PlaceAsked(Request):
    """A place on a drawn curve of a record, in the numbers of its window; on a surface of an equation with its third coordinate."""

    record_id: int
    figure: Annotated[str, Field(max_length=200)]
    series: Annotated[str, Field(max_length=20)]
    x: float
    y: float
    z: float | None = None


class PlaceRead(BaseModel):
    """`exact`: of the function itself; else of the drawn places. `t`: the parameter of a curve of points. `z`: on a surface, whose
    two variables were asked for as x and y."""

    x: float
    y: float
    slope: float | None
    exact: bool
    t: float | None = None
    z: float | None = None


class ProofAsked(BaseModel):
    """A finding as the record has it, with its certificate."""

    finding: dict[str, Any]


class PageFault(BaseModel):
    """A fault of ours in the page: what the browser said of it, and the view."""

    text: str = Field(max_length=4_000)
    at: str = Field(max_length=200)


class ProofChecked(BaseModel):
    """What the verifier says: how many boxes it looked at, in which time, and the claim that failed, if one did."""

    boxes: int
    fault: str
    certified: bool
    duration_ms: float


class Origin(BaseModel):
    """Where an exported file came from; `current` tells whether the folio's script is still that one."""

    folio_id: int
    folio: str
    record_id: int
    record: int
    figure: str
    current: bool


class NameAsked(Request):
    script: Script
    name: Annotated[str, Field(max_length=200)]


class Renaming(Request):
    """The name at a place of the script, and the one that it is to have instead; places as in messages."""

    script: Script
    line: int
    column: int
    name: Annotated[str, Field(max_length=200)]


class Dressing(BaseModel):
    """Options of a statement as they are written, and what is said of its window and figure."""

    options: dict[str, str]
    place: list[str] | None
    against: bool
    title: str | None
    caption: str | None
    gridlines: str | None
    frame: bool
    decimal_comma: bool


class Edits(BaseModel):
    edits: list[EditData]


class SlipShown(BaseModel):
    """What people type, and the sentence that was meant."""

    typed: str
    meant: str


class HandbookPage(BaseModel):
    """`examples`: from plain to rich; what came of them lies at /handbook-shown/ID.json. `see`: ids of pages that lie near."""

    id: str
    kind: str
    name: str
    usage: str
    help: str
    example: str
    words: str
    available: bool
    options: list[str]
    choices: list[str]
    domain: str
    latex: str
    parameters: list[str]
    more: list[str]
    examples: list[str]
    slips: list[SlipShown]
    see: list[str]


class Handbook(BaseModel):
    pages: list[HandbookPage]


class Asked(BaseModel):
    q: Annotated[str, Field(max_length=200)] = ""


class ColumnShown(BaseModel):
    """`summary`: counts, extremes, a histogram. `bad`: cells that are no numbers and were not mended, (row, what
    was found); `file_bad`: all of the file. `computed`: its formula."""

    name: str
    source: str
    kind: str
    unit: str | None
    description: str
    since: str | None
    bad: list[list[Any]]
    bad_count: int
    file_bad: list[list[Any]]
    summary: dict[str, Any]
    computed: str | None


class TableShown(BaseModel):
    """A table with its recipe; `number` counts the versions of its file, `touched` the rows that were mended, left out or
    hold a bad cell."""

    name: str
    bytes: int
    sha256: str
    rows: int
    number: int
    changed_at: str
    columns: list[ColumnShown]
    recipe: dict[str, Any]
    touched: int


class TableFiles(BaseModel):
    tables: list[TableShown]


class Look(BaseModel):
    """What a file would be as a table: how it is read, its columns, its first rows with their uncertainties by column."""

    recipe: dict[str, Any]
    columns: list[dict[str, Any]]
    rows: int
    shown: list[list[Any]]
    errors: dict[str, list[float]]


class Mending(Request):
    """A recipe for a table that is there; `number` is the version that it was made for."""

    recipe: dict[str, Any]
    number: int


class TableName(Request):
    name: Annotated[str, Field(max_length=200)]


class RowsAsked(BaseModel):
    """`where`: the column of the filter, with `low` and `high` or `text`, or `gaps`. `only` mended: rows that were touched or are bad."""

    start: Annotated[int, Field(ge=0)] = 0
    count: Annotated[int, Field(ge=1, le=500)] = 100
    sort: str | None = None
    down: bool = False
    where: str | None = None
    low: float | None = None
    high: float | None = None
    text: str | None = None
    gaps: bool = False
    only: Annotated[str, Field(max_length=10)] = ""


class TableRows(BaseModel):
    """`cells` with what was mended, `original` as they were read; `errors`: by column, standard uncertainties where cells say any."""

    total: int
    numbers: list[int]
    cells: list[list[Any]]
    original: list[list[Any]]
    errors: dict[str, list[float]]


class TableCompared(BaseModel):
    """`cells`: (row, column, before, now) of the first cells that changed."""

    number: int
    created_at: str
    rows_before: int
    rows_now: int
    columns_gone: list[str]
    columns_new: list[str]
    cells_changed: int
    cells: list[list[Any]]


class LoggerAsked(BaseModel):
    after: Annotated[int, Field(ge=0)] = 0


class Capture(Request):
    """A run of the logger: the seed of its noise, hours between readings, readings a second."""

    seed: Annotated[int, Field(ge=0, le=2**31)] = 7
    interval_h: Annotated[float, Field(ge=0.001, le=24)] = 0.25
    rate: Annotated[float, Field(ge=0.1, le=1000)] = 8.0


class LoggerSeen(BaseModel):
    """`readings`: (hours, metres or null) from number `first` on."""

    identity: str
    points: int
    first: int
    readings: list[list[float | None]]
    interval_h: float
    seed: int


class Begun(BaseModel):
    run_id: str
    version: int


class RunState(BaseModel):
    stopped: bool


class CheckText(Request):
    script: Script


class Checked(BaseModel):
    messages: list[MessageData]


class RecordLine(BaseModel):
    id: int
    number: int
    same_as: int | None
    created_at: str
    duration_s: float


class Records(BaseModel):
    records: list[RecordLine]


class InkShown(BaseModel):
    name: str
    code: str


class StartShown(BaseModel):
    """A starting point for an empty desk."""

    title: str
    script: str


class ScriptSoFar(Request):
    script: Script


class NextSteps(BaseModel):
    """Lines that may come next, the likeliest first."""

    lines: list[str]


class TaskShown(BaseModel):
    say: str
    hint: str


class LessonShown(BaseModel):
    """A lesson of the course: paragraphs, the script that its desk begins with, tasks, ids of pages of the handbook."""

    id: str
    title: str
    text: list[str]
    start: str
    tasks: list[TaskShown]
    pages: list[str]


class Course(BaseModel):
    lessons: list[LessonShown]


class RecordAsked(Request):
    record_id: int


class TasksDone(BaseModel):
    """For each task of a lesson whether the record holds what is expected."""

    done: list[bool]


class Words(BaseModel):
    """The language's own tables, for highlighting."""

    reserved: list[str]
    nouns: list[str]
    statements: list[str]
    options: list[str]
    option_words: list[str]
    functions: list[str]
    constants: list[str]
    inks: list[InkShown]
    starts: list[StartShown]


class Trouble(BaseModel):
    """Every refusal has this shape; `code` is for programs, `message` for people."""

    code: str
    message: str
    folio: Folio | None = None


def _printable(dpi: int) -> int:
    if dpi not in DPIS:
        raise ValueError(f"dots per inch are one of {', '.join(map(str, DPIS))}; not {dpi}")
    return dpi


class FigureQuery(BaseModel):
    dpi: Annotated[int, AfterValidator(_printable), Field(json_schema_extra={"enum": list(DPIS)})] = 300
    grey: bool = False
    download: bool = False
    step: Annotated[float, Field(gt=0)] | None = None
