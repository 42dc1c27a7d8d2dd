import { api, taken, type Shape } from '../../api/client'

/** How a file is understood with what was put right. */
export async function understoodAnew(id: string, choice: Shape['ChoiceShape']) {
  return taken(
    await api.POST('/api/uploads/{upload_id}/understanding', { params: { path: { upload_id: id } }, body: choice }),
  )
}
