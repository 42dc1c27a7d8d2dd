import { scaleLinear } from 'd3-scale'

/** The heat scale, used for nothing else: its lightness falls steadily, so that it reads without hue. */
export const HEAT_STOPS: [number, string][] = [
  [25, '#CDDBE4'],
  [34, '#D5DBCF'],
  [37.5, '#E8C462'],
  [40, '#E9953A'],
  [42.5, '#D9601A'],
  [46, '#7F1418'],
]

export const heatColour = scaleLinear<string>()
  .domain(HEAT_STOPS.map(([celsius]) => celsius))
  .range(HEAT_STOPS.map(([, colour]) => colour))
  .clamp(true)

/** Fill of a ribbon where nobody measured. */
export const UNMEASURED = '#E7E2D3'
