import { scaleLinear } from 'd3-scale'
import { HEAT_STOPS, UNMEASURED } from '../api/rules'

export { HEAT_STOPS, UNMEASURED }

export const heatColour = scaleLinear<string>()
  .domain(HEAT_STOPS.map(([celsius]) => celsius))
  .range(HEAT_STOPS.map(([, colour]) => colour))
  .clamp(true)
