// Filters by name, fetched once.
import { api, data, type Gel } from '../api/client'

let kept: Promise<Gel[]> | null = null
export const allGels = () => (kept ??= data(api.GET('/api/gels')))
