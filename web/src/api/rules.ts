// Made from the core by `make types`: not to be edited.

/** Percentages at which times are told. */
export const MILESTONES = [50, 80, 100] as const

/** Temperatures at or above which minutes are counted, °C. */
export const THRESHOLDS_C = [40, 43, 45, 48, 50] as const

/** From here on a person is warned, °C. */
export const WARN_C = 45 as const

/** Where a temperature is read. */
export const POSITIONS = ["back", "front", "contact", "pad", "room"] as const

/** A phone without a case. */
export const NO_CASE = "none" as const

/** The same in words. */
export const NO_CASE_SAID = "no case" as const

/** What stands in a charger's place where there is none. */
export const WIRED = "wired" as const

/** What takes power away, as listed; byHeat: the phone protects itself; offCoil: it has left the coil. */
export const CAUSES = {
  "heat": {
    "words": "heat",
    "byHeat": true,
    "offCoil": false
  },
  "heat_cutout": {
    "words": "stop by heat",
    "byHeat": true,
    "offCoil": false
  },
  "supply": {
    "words": "supply",
    "byHeat": false,
    "offCoil": false
  },
  "hold": {
    "words": "charge limit",
    "byHeat": false,
    "offCoil": false
  },
  "restart": {
    "words": "started over",
    "byHeat": false,
    "offCoil": false
  },
  "contact": {
    "words": "contact lost",
    "byHeat": false,
    "offCoil": true
  },
  "unexplained": {
    "words": "cause unknown",
    "byHeat": false,
    "offCoil": false
  }
} as const

/** What is said of a difference that does not exceed its noise. */
export const NO_DIFFERENCE = "no difference shown" as const

/** How a phone lies that was moved about until it drew the most. */
export const MOVED_ABOUT = "moved about for the best" as const

/** Modes that an output of a pack can show. */
export const PACK_MODES = ["5 V", "9 V", "12 V", "15 V", "20 V", "28 V", "PPS", "a maker's own"] as const

/** Ways in which an output that went off came back. */
export const RESTARTS = ["by itself", "by its button", "when the load was taken off", "not at all"] as const

/** The heat scale: °C and colour, its lightness falling steadily. */
export const HEAT_STOPS = [[25.0, "#CDDBE4"], [34.0, "#D5DBCF"], [37.5, "#E8C462"], [40.0, "#E9953A"], [42.5, "#D9601A"], [46.0, "#7F1418"]] as const

/** Fill of a ribbon where nobody measured. */
export const UNMEASURED = "#E7E2D3" as const

/** Stops of a ribbon's colour at most. */
export const COLOUR_STOPS = 80 as const

/** Half the height of a band at least, pixels. */
export const LEAST_HALF_PX = 0.7 as const

/** Pixels between two labels of ticks at least. */
export const LABEL_ROOM_PX = 20.0 as const

/** Points a minute at which the band of a run without a meter is as high as it may be. */
export const FULL_PACE = 1.5 as const

/** What a reader says of a stretch that was no dip. */
export const NO_DIP = "no dip" as const
