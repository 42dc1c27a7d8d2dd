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

/** What a reader says of a stretch that was no dip. */
export const NO_DIP = "no dip" as const
