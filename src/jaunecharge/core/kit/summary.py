"""Kit in a few words, for a row of a list."""

from .items import Adapter, Cable, Case, Charger, Kit, Meter, Pack, Phone, Probe


def in_words(item: Kit) -> str:
    """A piece in one line, with units."""
    match item:
        case Phone():
            health = f", health {item.battery_health * 100:.0f} %" if item.battery_health else ""
            wired = f", by wire {item.wired_w:g} W" if item.wired_w else ""
            takes = ", ".join(t.said for t in item.accepts)
            return f"{item.capacity_mah:,.0f} mAh at {item.nominal_v:g} V{health}; takes {takes}{wired}"
        case Charger():
            places = [f"{p.place + ' ' if p.place else ''}{', '.join(t.said for t in p.gives)}" for p in item.pads]
            claim = f"; claims {item.claimed_w:g} W" if item.claimed_w else ""
            asks = f"; asks for {item.asks[0].said}" if item.asks else ""
            fan = f"; fan {item.fan}" if item.fan != "none" else ""
            return f"{item.form}, gives {'; '.join(places)}{claim}{asks}{fan}"
        case Adapter():
            if item.computer_port:
                return f"a computer's port, {item.offers()[0].said}"
            text = ", ".join([p.said for p in item.offers()] + [str(r) for r in item.pps])
            return f"{text}; inferred from {item.rated_w:g} W, unknown until negotiated" if item.inferred else text
        case Cable():
            return f"carries {item.amps:g} A{f', {item.length_m:g} m' if item.length_m else ''}"
        case Pack():
            gives = [p.said for p in item.outputs] + [t.said for t in item.gives]
            claim = f"; claims {item.claimed_w:g} W" if item.claimed_w else ""
            outputs = f"; gives {', '.join(gives)}" if gives else ""
            rest = f"{f'; {item.grams:g} g' if item.grams else ''}{f'; {item.lamps} lamps' if item.lamps else ''}"
            return f"{item.rated_mah:,.0f} mAh at {item.cell_v:g} V, {item.rated_wh:.1f} Wh{outputs}{claim}{rest}"
        case Meter():
            through = "" if item.passes_negotiation else "; lets no device negotiate"
            through += "; stands at the socket" if item.stands == "socket" else ""
            counts = f"{item.counts_v:g} V, {item.counts_a:g} A"
            if item.gain_percent is None:
                return f"accuracy not known, every {item.step_s:g} s{through}"
            return f"±({item.gain_percent:g} % + {counts}), every {item.step_s:g} s{through}"
        case Probe():
            sensor = item.sensor if item.sensor != "not known" else "probe of unknown kind"
            return f"{sensor}{' of the room' if item.measures == 'room' else ''}, ±{item.accuracy_k:g} K"
        case Case():
            return f"{item.thickness_mm:g} mm{', ring of magnets' if item.magnets else ''}"
