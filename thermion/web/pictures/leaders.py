"""Where the views of a drawing and their labels stand [px]: no label lies on another or on the drawing,
no leader line crosses another or a label. Labels stand in columns beside their view, ordered so that no two cross."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import combinations

from thermion.core.kinds.building import Point, View

NARROW, SLIM, CAPITAL, WIDE = "'|j,.:;`i! l()[]", 'f-rt{}"_I/\\1', "ABCDEGHKNOPQRSUVXYZw&#@", "mMW%…½"
LEADING = 1.22  # height of a row of text, of its size
GAP = 12.0  # between a view and its labels, and between blocks
_HOOK = 0.6  # where a leader begins, of the text size below the label's top
FEW = 4  # labels that stand on one side of a view when there are several views


@dataclass(frozen=True, kw_only=True)
class Room:
    """What a drawing may fill [px]: text size, width of a column of labels; `numbered` where it is so
    narrow that the labels' words stand below. Without text there are no labels."""

    width: float
    height: float
    text: float = 13.0
    column: float = 124.0
    numbered: bool = False


@dataclass(frozen=True, kw_only=True)
class Label:
    """What is written at a place or factor; `was` what the version before had there, if it differs."""

    key: str
    heading: str
    lines: tuple[str, ...]
    empty: bool = False
    was: str = ""


@dataclass(frozen=True)
class LabelRow:
    """A line of text: its tone and where it stands."""

    text: str
    tone: str
    x: float
    y: float


@dataclass(frozen=True, kw_only=True)
class PlacedLabel:
    """A label where it stands: its rows, the box they fill (x, y, width, height), and its leader."""

    label: Label
    rows: tuple[LabelRow, ...]
    box: tuple[float, float, float, float]
    leader: tuple[Point, Point]
    at_end: bool  # the rows end at x instead of beginning there


@dataclass(frozen=True, kw_only=True)
class StandingView:
    """A view where it stands: its left top corner; one mm is `scale` px."""

    view: View
    left: float
    top: float
    scale: float
    below: float  # where its name is written

    def at(self, point: Point) -> Point:
        """A point of the view [mm, y upward] on the page [px, y downward]."""
        x, y, _, high = self.view.window
        return self.left + (point[0] - x) * self.scale, self.top + (y + high - point[1]) * self.scale

    @property
    def wide(self) -> float:
        return self.view.window[2] * self.scale


@dataclass(frozen=True, kw_only=True)
class PlacedLabels:
    width: float
    height: float
    scale: float
    views: tuple[StandingView, ...]
    labels: tuple[PlacedLabel, ...]
    notes: tuple[LabelRow, ...]  # the words of numbered labels, below


@lru_cache(maxsize=4096)
def text_width(text: str, size: float) -> float:
    """Width [px] of bold text, rather too wide than too narrow."""
    return size * sum(
        0.33
        if c in NARROW
        else 0.44
        if c in SLIM
        else 0.78
        if c in CAPITAL
        else 1.0
        if c in WIDE or c > "ǿ"
        else 0.62
        for c in text
    )


def wrap(text: str, width: float, size: float) -> list[str]:
    """Text in rows of at most this width; a word that is longer is cut."""
    rows = [""]
    for word in text.split():
        longer = f"{rows[-1]} {word}".strip()
        if text_width(longer, size) <= width:
            rows[-1] = longer
            continue
        if rows[-1]:
            rows.append("")
        rows[-1:] = _pieces(word, width, size)
    return rows


def _pieces(word: str, width: float, size: float) -> list[str]:
    if text_width(word, size) <= width or len(word) < 2:
        return [word]
    fits = (i for i in range(len(word) - 1, 1, -1) if text_width(word[:i] + "-", size) <= width)
    cut = next(fits, 1)
    return [word[:cut] + "-", *_pieces(word[cut:], width, size)]


@dataclass(frozen=True)
class _Words:
    """A label's rows before it has its place."""

    label: Label
    rows: tuple[tuple[str, str], ...]  # text, tone
    at: Point  # what it leads to [px], once the view stands
    height: float


@dataclass(frozen=True, kw_only=True)
class _Block:
    """A view with the labels left and right of it, and what of its size does not depend on the scale."""

    view: View
    left: tuple[_Words, ...]
    right: tuple[_Words, ...]
    beside: float  # width of the columns of labels
    name: float  # width of the view's name
    labels: float  # height of the higher column
    caption: float

    def wide(self, scale: float) -> float:
        return max(self.view.window[2] * scale + self.beside, self.name)

    def high(self, scale: float) -> float:
        return max(self.view.window[3] * scale, self.labels) + self.caption


def _block(view: View, left: tuple[_Words, ...], right: tuple[_Words, ...], room: Room) -> _Block:
    beside = (bool(left) + bool(right)) * (room.column + GAP)
    name = text_width(view.name, room.text) * 0.9 if room.text else 0.0
    return _Block(
        view=view,
        left=left,
        right=right,
        beside=beside,
        name=name,
        labels=max(_total(left), _total(right)),
        caption=_caption(room),
    )


def _total(words: Sequence[_Words]) -> float:
    return sum(w.height for w in words)


def _caption(room: Room) -> float:
    return room.text * 1.7 if room.text else 0.0


def place_labels(views: Sequence[View], labels: Mapping[str, Label], room: Room) -> PlacedLabels:
    """The views in columns so that they are as large as the room allows; it grows downwards when the
    labels need more."""
    blocks = _blocks(views, labels if room.text else {}, room)
    scale, columns = max(((_scale(c, room), c) for c in _columns(blocks)), key=lambda found: found[0])
    wide = sum(_column_wide(c, scale) for c in columns) + GAP * (len(columns) - 1)
    high = max(sum(b.high(scale) for b in c) + GAP * (len(c) - 1) for c in columns)
    x, edge = (room.width - wide) / 2, room.text * 0.4
    stand: list[StandingView] = []
    placed: list[PlacedLabel] = []
    for column in columns:
        across = _column_wide(column, scale)
        y = edge + (high - sum(b.high(scale) for b in column) - GAP * (len(column) - 1)) / 2
        for block in column:
            view, mine = _stand(block, x + (across - block.wide(scale)) / 2, y, scale, room)
            stand.append(view)
            placed += mine
            y += block.high(scale) + GAP
        x += across + GAP
    if room.numbered:
        placed = [_numbered(standing, i + 1) for i, standing in enumerate(placed)]
    notes, more = _notes(placed, high + edge, room) if room.numbered else ((), 0.0)
    return PlacedLabels(
        width=room.width,
        height=high + 2 * edge + more,
        scale=scale,
        views=tuple(stand),
        labels=tuple(placed),
        notes=notes,
    )


def _numbered(standing: PlacedLabel, number: int) -> PlacedLabel:
    return replace(standing, rows=(replace(standing.rows[0], text=str(number)),))


def _blocks(views: Sequence[View], labels: Mapping[str, Label], room: Room) -> list[_Block]:
    """Each view with the labels of what is seen on it first, parted into left and right."""
    out, taken = [], set[str]()
    for i, view in enumerate(views):
        seen = sorted((at, key) for key, at in view.seen.items() if key in labels and key not in taken)
        taken |= {key for _, key in seen}
        mine = [_words(labels[key], at, room) for at, key in seen]
        if len(views) > 1 and len(mine) <= FEW:
            split = len(mine) if i == 0 else 0
        else:
            split = _fair(mine, view.window[0] + view.window[2] / 2)
        out.append(_block(view, tuple(mine[:split]), tuple(mine[split:]), room))
    return out


def _fair(words: Sequence[_Words], middle: float) -> int:
    """How many labels, in order from the left, stand on the left: both sides about as high."""

    def unfair(split: int) -> tuple[float, float]:
        nearest = min((abs(w.at[0] - middle) for w in words[max(split - 1, 0) : split + 1]), default=0.0)
        return max(_total(words[:split]), _total(words[split:])), nearest

    return min(range(len(words) + 1), key=unfair)


def _words(label: Label, at: Point, room: Room) -> _Words:
    rows: list[tuple[str, str]]
    if room.numbered:
        rows = [("00", "heading")]  # numbered from the top down once they stand
    else:
        rows = [(text, "heading") for text in wrap(label.heading, room.column, room.text)]
        tone = "empty" if label.empty else "line"
        rows += [(text, tone) for line in label.lines for text in wrap(line, room.column, room.text)]
        rows += [(text, "was") for text in (wrap(label.was, room.column, room.text) if label.was else ())]
    return _Words(label, tuple(rows), at, len(rows) * room.text * LEADING + room.text * 0.5)


def _columns(blocks: list[_Block]) -> Iterator[list[list[_Block]]]:
    """Every way to stand them in columns, in order."""
    for cuts in range(2 ** (len(blocks) - 1)):
        columns = [[blocks[0]]]
        for i, block in enumerate(blocks[1:]):
            if cuts >> i & 1:
                columns.append([block])
            else:
                columns[-1].append(block)
        yield columns


def _column_wide(column: Sequence[_Block], scale: float) -> float:
    return max(b.wide(scale) for b in column)


def _scale(columns: Sequence[Sequence[_Block]], room: Room) -> float:
    """The largest scale [px/mm] at which they fit; rather too high than too wide."""

    gaps = GAP * (len(columns) - 1)

    def high(scale: float) -> float:
        return max(sum([b.high(scale) for b in c]) + GAP * (len(c) - 1) for c in columns)

    most = max(room.height, high(0.0) * 1.02)

    def fits(scale: float) -> bool:
        return sum([_column_wide(c, scale) for c in columns]) + gaps <= room.width and high(scale) <= most

    low, top = 0.0, 20.0
    for _ in range(18):
        middle = (low + top) / 2
        low, top = (middle, top) if fits(middle) else (low, middle)
    return max(low, 0.01)


def _stand(
    block: _Block, x: float, y: float, scale: float, room: Room
) -> tuple[StandingView, list[PlacedLabel]]:
    high = block.high(scale) - _caption(room)
    beside = room.column + GAP
    left = x + (beside if block.left else 0.0)
    top = y + (high - block.view.window[3] * scale) / 2
    view = StandingView(view=block.view, left=left, top=top, scale=scale, below=y + high + room.text * 1.2)
    out = []
    for words, edge, at_end in (
        (block.left, x + room.column, True),
        (block.right, left + view.wide + GAP, False),
    ):
        mine = [replace(w, at=view.at(w.at)) for w in words]
        out += _beside(mine, edge, y, y + high, at_end, room)
    return view, out


def _beside(
    words: list[_Words], edge: float, top: float, bottom: float, at_end: bool, room: Room
) -> list[PlacedLabel]:
    """Labels of one side from the top down, each as near to what it leads to as may be, in an order in
    which no two leaders cross: by height with crossing ones exchanged, else fanned out."""
    side = edge + 3 if at_end else edge - 3
    order, tops = _exchanged(words, side, top, bottom, room)
    if _crossing(order, tops, side, room):
        order, tops = _fanned(words, side, top, bottom, room)
    return [_standing(w, edge, side, t, at_end, room) for w, t in zip(order, tops, strict=True)]


def _crossing(
    order: Sequence[_Words], tops: Sequence[float], side: float, room: Room
) -> tuple[int, int] | None:
    """The first two leaders that cross."""
    leaders = [((side, t + _HOOK * room.text), w.at) for w, t in zip(order, tops, strict=True)]
    pairs = combinations(range(len(leaders)), 2)
    return next(((i, j) for i, j in pairs if crosses(leaders[i], leaders[j])), None)


def _exchanged(
    words: Sequence[_Words], side: float, top: float, bottom: float, room: Room
) -> tuple[list[_Words], list[float]]:
    order = sorted(words, key=lambda w: (w.at[1], abs(w.at[0] - side)))
    for _ in range(2 * len(order)):
        tops = _tops(order, top, bottom)
        crossed = _crossing(order, tops, side, room)
        if crossed is None:
            break
        i, j = crossed
        order[i], order[j] = order[j], order[i]
    return order, _tops(order, top, bottom)


def _fanned(
    words: Sequence[_Words], side: float, top: float, bottom: float, room: Room
) -> tuple[list[_Words], list[float]]:
    """Labels without gaps. Each takes the leader above which nothing is left to lead to: what comes
    after lies below its line on both ends, so that no two cross. Then as far apart as that stays so."""
    rest, order, tops = list(words), list[_Words](), list[float]()
    middle = sum(w.at[1] for w in words) / max(len(words), 1)
    y = max(top, min(middle - _total(words) / 2, bottom - _total(words)))
    while rest:
        from_y = y + _HOOK * room.text
        first = min(rest, key=lambda w: (w.at[1] - from_y) / abs(w.at[0] - side))
        rest.remove(first)
        order.append(first)
        tops.append(y)
        y += first.height
    wished = _tops(order, top, bottom)
    for share in (1.0, 0.7, 0.4):
        spread = [a + (b - a) * share for a, b in zip(tops, wished, strict=True)]
        if _crossing(order, spread, side, room) is None:
            return order, spread
    return order, tops


def _tops(order: Sequence[_Words], top: float, bottom: float) -> list[float]:
    """Each as near to what it leads to as those above and below leave it."""
    tops: list[float] = []
    free = top
    for w in order:
        tops.append(max(w.at[1] - w.height / 2, free))
        free = tops[-1] + w.height
    end = bottom
    for i in range(len(order) - 1, -1, -1):
        tops[i] = min(tops[i], end - order[i].height)
        end = tops[i]
    return tops


def _standing(words: _Words, edge: float, side: float, top: float, at_end: bool, room: Room) -> PlacedLabel:
    size = room.text
    rows = tuple(
        LabelRow(text, tone, edge, top + size * (0.95 + i * LEADING))
        for i, (text, tone) in enumerate(words.rows)
    )
    wide = max(text_width(text, size) for text, _ in words.rows)
    box = (edge - wide if at_end else edge, top, wide, words.height - size * 0.5)
    return PlacedLabel(
        label=words.label, rows=rows, box=box, leader=((side, top + _HOOK * size), words.at), at_end=at_end
    )


def crosses(a: tuple[Point, Point], b: tuple[Point, Point]) -> bool:
    """True when two lines between two points each have a point in common."""

    def turn(p: Point, q: Point, r: Point) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return turn(*a, b[0]) * turn(*a, b[1]) < 0 and turn(*b, a[0]) * turn(*b, a[1]) < 0


def _notes(placed: Sequence[PlacedLabel], top: float, room: Room) -> tuple[tuple[LabelRow, ...], float]:
    """The words of the labels below the drawing, by their numbers."""
    rows: list[LabelRow] = []
    y = top + room.text * 1.6
    indent = room.text * 1.9
    for standing in placed:
        label = standing.label
        rows.append(LabelRow(standing.rows[0].text, "heading", 0.0, y))
        said = f"{label.heading}: {', '.join(label.lines)}{f', {label.was}' if label.was else ''}"
        tone = "was" if label.was else "empty" if label.empty else "line"
        for text in wrap(said, room.width - indent, room.text):
            rows.append(LabelRow(text, tone, indent, y))
            y += room.text * LEADING
        y += room.text * 0.25
    return tuple(rows), y - top
