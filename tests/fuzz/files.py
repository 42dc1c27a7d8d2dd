"""Files that were cut, mixed, swollen and spoilt, read in limited processes as the application reads them."""

import gzip
import io
import random
import time
import zipfile

import openpyxl

from jaunecharge.core.errors import CannotRead
from jaunecharge.formats.kit import kit_from_text
from jaunecharge.formats.read.apart import apart
from jaunecharge.formats.read.assemble import pasted_readings, pasted_temperatures
from jaunecharge.formats.read.files import Asked, look, run_of

UNKNOWN = "it cannot be read"
"""What is said of a file where a reader met what nobody thought of."""

PIECES = (
    b"", b"\x00", b",", b";", b"\t", b"\n", b"\r\n", b'"', b"1e308", b"-1e308", b"1e-297", b"NaN", b"inf", b"-",
    b"\xff", b"\xfe", b"9" * 400, b"0", b"-1", b"9999-12-31T23:59:59-14:00", b"0001-01-01T00:00:00+14:00",
    b"24:61:99", b"2027-02-30", b"\xef\xbb\xbf", b"\xc3", "é".encode(), "１２".encode(), b"A" * 40_000, b"," * 3000,
    b"1" * 5000, b"%", b"=1+1", b"e", b"1,5", b'<row r="1000000000">', b'<c r="ZZZZ50"><v>1</v></c>', b"<v>x</v>",
    b"</sheetData>", b"<!DOCTYPE x>", b"&x;",
)  # fmt: skip


def meter():
    return b"time_s,volts,amps\n" + b"".join(b"%d,9.0%d,1.%d\n" % (t, t % 7, t % 9) for t in range(120))


def checkins():
    return b"time,percent\n" + b"".join(b"%d:%02d,%d\n" % (m // 60, m % 60, 10 + m // 2) for m in range(0, 120, 5))


def heat():
    return b"time_s,position,celsius\n" + b"".join(b"%d,back,%d.5\n" % (t, 25 + t // 300) for t in range(0, 3000, 60))


def dated():
    rows = (f"2027-03-01 08:{t // 60:02d}:{t % 60:02d};{9 + t % 3 / 10:.1f};1,{t % 9}" for t in range(120))
    return ("Zeit;Spannung [V];Strom [A]\n" + "\n".join(rows)).encode()


def workbook():
    book = openpyxl.Workbook()
    for line in meter().decode().splitlines():
        book.active.append([float(c) if c[:1].isdigit() else c for c in line.split(",")])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


KINDS = (
    ("m.csv", meter, "meter"), ("m2.csv", dated, "meter"), ("b.csv", checkins, "checkins"), ("h.csv", heat, "heat"),
    ("m.xlsx", workbook, "meter"),
)  # fmt: skip


def spoilt_workbook(chance, content):
    """A workbook one of whose parts was spoilt, and packed again."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        victim = chance.choice(old.namelist())
        for name in old.namelist():
            part = old.read(name)
            new.writestr(name, spoilt(chance, part) if name == victim else part)
    return out.getvalue()


def spoilt(chance, content):
    """Bytes with pieces cut out, put in, doubled, turned or swollen."""
    found = bytearray(content)
    for _ in range(chance.choice((1, 1, 2, 4, 12))):
        at = chance.randrange(len(found) + 1)
        to = min(len(found), at + chance.choice((0, 1, 2, 8, 50, 400)))
        match chance.randrange(6):
            case 0:
                found[at:to] = chance.choice(PIECES)
            case 1:
                del found[at:to]
            case 2:
                found[at:at] = found[at:to] * chance.choice((2, 20, 200))
            case 3 if at < len(found):
                found[at] ^= 1 << chance.randrange(8)
            case 4:
                found[at:at] = chance.choice(PIECES) * chance.choice((1, 3, 50))
            case _:
                found[at:to] = bytes(chance.randrange(256) for _ in range(chance.choice((1, 4, 30))))
    return bytes(found[:3_000_000])


def one(chance):
    """A spoilt file: its name, its content, and the role that it is read in."""
    name, made, role = chance.choice(KINDS)
    content = made()
    if name.endswith("xlsx") and chance.random() < 0.8:
        content = spoilt_workbook(chance, content)
    else:
        content = spoilt(chance, content)
    if chance.random() < 0.1:
        content = gzip.compress(content, 1)
        content = spoilt(chance, content) if chance.random() < 0.5 else content
    return name, content, role


def read_many(folder, seed_, number):
    """Read so many spoilt files, as the application reads them; what was wrong with the reading of any.

    In one process for all: a file that goes beyond memory or time takes the process with it, and is found by its seed.
    """
    wrong, good = [], 0
    plain = folder / f"plain-{seed_}.csv"
    plain.write_bytes(meter())
    for n in range(number):
        name, content, role = one(random.Random(f"{seed_} {n}"))
        path = folder / f"{seed_}-{n}"
        path.write_bytes(content)
        began = time.monotonic()
        try:
            asked = Asked(path, name, roles=(role,))
            look(asked)
            run_of([asked] if role == "meter" else [Asked(plain, "plain.csv", roles=("meter",)), asked])
            good += 1
        except CannotRead as error:
            if not (error.what and error.mend):
                wrong.append(f"{seed_} {n}: refused without a word")
        except MemoryError:
            raise
        except Exception as error:
            wrong.append(f"{seed_} {n} ({name}): {type(error).__name__} {str(error)[:200]}")
        if (lasted := time.monotonic() - began) > 60.0:
            wrong.append(f"{seed_} {n} ({name}): {lasted:.0f} s")
        path.unlink()
        wrong += typed(random.Random(f"typed {seed_} {n}"), f"{seed_} {n}")
    return wrong, good


def typed(chance, what):
    """The same with what is typed or pasted, and with a shelf."""
    wrong = []
    shelf = b"kind,label,watts\nadapter,Plug 20,20 W\ncable,Long,3 A\n"
    for reader, base in (
        (pasted_readings, b"0 10\n20 30\n40 52\n60 70"), (pasted_temperatures, b"0 25c back\n10 98.4f pad\n"),
        (lambda t: kit_from_text(t, "shelf"), shelf),
    ):  # fmt: skip
        text = spoilt(chance, base)[:20_000].decode("utf-8", "replace")
        try:
            reader(text)
        except CannotRead:
            pass
        except Exception as error:
            wrong.append(f"typed {what}: {type(error).__name__} {str(error)[:200]} for {text[:200]!r}")
    return wrong


def in_limits(folder, seed_, number):
    """The same in a process with the limits of the application."""
    return apart(read_many, folder, seed_, number, name=f"seed {seed_}", seconds=600.0)
