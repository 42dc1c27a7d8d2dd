"""Pictures of what flows: the walk of energy of packs, chains as channels."""

from ...core.packs import Stage
from . import letters
from .canvas import Form, canvas
from .scale import INK, YELLOW
from .subject import DrawnChain, DrawnPack, Subject
from .svg import Drawing, number


def walks(subject: Subject, form: Form, ground: bool = True) -> str:
    """The walk of energy of each pack, from what is printed to what lies in a phone: filled where measured, pale with a
    broken edge where estimated, open where nothing is known."""
    packs = [p for p in subject.packs if p.stages][: 4 if form == "wide" else 6]
    about = ". ".join(f"{p.label}: {'; '.join(_stage_said(s) for s in p.stages)}" for p in packs)
    board = canvas(form, subject.question, "Energy of each pack, Wh: from what is printed to what arrives; filled where"
                   " measured, pale where estimated.", subject.foot, about, ground)  # fmt: skip
    drawing = board.drawing
    if not packs:
        drawing.text(board.left, board.top + 40.0, "No pack is part of this finding", 20.0)
        return drawing.written()
    most = max(s.wh or 0.0 for p in packs for s in p.stages) or 1.0
    each = board.high / len(packs)
    for n, pack in enumerate(packs):
        top = board.top + n * each
        drawing.text(board.left, top + 22.0, pack.label, 17.0, bold=True, most=board.wide)
        walk_of(drawing, pack, (board.left, board.right), top + 62.0, top + each - 24.0, most)
    return drawing.written()


def walk_of(
    drawing: Drawing, pack: DrawnPack, sides: tuple[float, float], top: float, base: float, most: float
) -> None:
    """Draw the walk of a pack between a top and a base line, `most` [Wh] being as high as that."""
    left, right = sides
    wide, before = (right - left) / max(1, len(pack.stages)), None
    for k, stage in enumerate(pack.stages):
        x = left + k * wide
        if stage.wh is None:
            drawing.soft(x + 8.0, base - 8.0, f"{stage.words}: not known", 14.0, most=wide - 10.0)
            continue
        y = base - stage.wh / most * (base - top)
        start, ease = y if before is None else before, min(60.0, wide * 0.3)
        edge = (
            f"M{number(x)} {number(start)}C{number(x + ease * 0.55)} {number(start)} {number(x + ease * 0.45)}"
            f" {number(y)} {number(x + ease)} {number(y)}H{number(x + wide)}"
        )
        sure = stage.stand in {"measured", "printed"}
        drawing.put("path", d=f"{edge}V{number(base)}H{number(x)}Z", fill=YELLOW, opacity=1.0 if sure else 0.3)
        dash = "" if sure else "5 4"
        drawing.put("path", d=edge, fill="none", stroke=INK, stroke_width=1.6, stroke_dasharray=dash)
        least = "at least " if stage.at_least else ""
        drawing.text(x + ease + 4.0, y - 6.0, f"{least}{stage.wh:.1f} Wh", 15.0, bold=True, family=letters.READINGS)
        drawing.soft(x + ease + 4.0, base + 17.0, stage.words, 14.0, most=wide - ease - 6.0)
        before = y
    drawing.line(left, base, right, base, INK, 1.2)


def _stage_said(stage: Stage) -> str:
    return f"{stage.words}: not known" if stage.wh is None else f"{stage.words} {stage.wh:.1f} Wh, {stage.stand}"


def chains(subject: Subject, form: Form, ground: bool = True) -> str:
    """Chains as channels: walls as far apart as the watts that a link could pass, the stream what flows."""
    shown = list(subject.chains)[: 3 if form == "wide" else 5]
    about = ". ".join(
        f"{c.title}: " + "; ".join(f"{x.link} could pass {x.passes_w:.1f} W, {x.flows_w:.1f} W flow" for x in c.links)
        + f"; narrowest: {c.narrowest}"
        for c in shown
    )  # fmt: skip
    board = canvas(
        form,
        subject.question,
        "Watts at the meter that each link could pass, and what flows; the narrowest walls are heavy.",
        subject.foot,
        about,
        ground,
    )
    if not shown:
        board.drawing.text(board.left, board.top + 40.0, "No chain of the shelf was run", 20.0)
        return board.drawing.written()
    each = board.high / len(shown)
    for n, chain in enumerate(shown):
        top = board.top + n * each
        board.drawing.text(board.left, top + 20.0, chain.title, 17.0, bold=True, most=board.wide)
        _channel(board.drawing, chain, (board.left, board.right), top + 34.0, min(120.0, each - 84.0))
    return board.drawing.written()


MOST_TIMES, WALLS_SHARE = 2.2, 0.6


def _channel(drawing: Drawing, chain: DrawnChain, sides: tuple[float, float], top: float, high: float) -> None:
    left, right = sides
    flow = max([0.1, *(x.flows_w for x in chain.links)])
    per_watt, column, middle = high / (flow * MOST_TIMES), (right - left) / len(chain.links), top + high / 2.0
    gates = []
    for i, link in enumerate(chain.links):
        start = left + i * column + column * (1.0 - WALLS_SHARE) / 2.0
        gates.append(
            (
                start,
                start + column * WALLS_SHARE,
                min(high, link.passes_w * per_watt),
                max(1.0, link.flows_w * per_watt),
            )
        )
    points = [(left, gates[0][3]), *((x, g[3]) for g in gates for x in g[:2]), (right, gates[-1][3])]
    above = "L".join(f"{number(x)} {number(middle - s / 2.0)}" for x, s in points)
    below = "L".join(f"{number(x)} {number(middle + s / 2.0)}" for x, s in reversed(points))
    drawing.put("path", d=f"M{above}L{below}Z", fill=YELLOW)
    for link, (start, end, wall, _) in zip(chain.links, gates, strict=True):
        narrow, centre = link.link == chain.narrowest, (start + end) / 2.0
        dash = "2 5" if link.passes_w * per_watt > high else ""
        for y in (middle - wall / 2.0, middle + wall / 2.0):
            drawing.line(start, y, end, y, INK, 4.0 if narrow else 1.5, dash)
        drawing.text(centre, middle + 6.0, f"{link.flows_w:.1f} W", 17.0, bold=narrow, anchor="middle",
                     family=letters.READINGS)  # fmt: skip
        drawing.text(centre, top + high + 18.0, link.label or link.link, 14.0, bold=narrow, anchor="middle",
                     most=column - 6.0)  # fmt: skip
        drawing.soft(centre, top + high + 36.0, f"could pass {link.passes_w:.1f} W", 13.0, "middle", column - 6.0)
