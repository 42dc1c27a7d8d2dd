import type { Shape } from '../../api/client'

/** What a number of charges rests on, in words. */
export const BASIS: Record<Shape['ChargesShape']['basis'], string> = {
  measured: 'measured',
  'another phone': 'from another phone',
  'load test': 'from its load test',
  rating: 'from its rating',
}
