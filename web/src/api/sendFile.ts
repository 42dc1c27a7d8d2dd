import { api, asProblem, Refused, type Shape } from './client'

/** A byte more than the application reads: of a larger file no more need go, as it is refused all the same. */
const MOST_SENT = 200_000_001

/** Sends a file; `told` hears the share that has gone (0–1). */
export const sendFile = (file: File, told: (share: number) => void) => sent<Shape['UploadShape']>('/api/uploads', file, told)

/** Sends a data package. */
export const sendPackage = (file: File, told: (share: number) => void) => sent<Shape['ArrivedPackage']>('/api/packages/uploads', file, told)

function sent<T>(path: string, file: File, told: (share: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `${path}?name=${encodeURIComponent(file.name)}`)
    request.responseType = 'json'
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) told(event.loaded / event.total)
    }
    request.onload = () => {
      if (request.status === 201) resolve(request.response as T)
      else reject(new Refused(asProblem(request.response)))
    }
    request.onerror = () => {
      reject(new Refused(asProblem(null)))
    }
    request.send(file.size > MOST_SENT ? file.slice(0, MOST_SENT) : file)
  })
}

/** Sends a file of packs, whatever it holds; `pack` where it does not say of which it is. */
export async function sendPackFile(file: File, pack: string) {
  return api.POST('/api/packs/files', {
    params: { query: { name: file.name, pack } },
    body: file as unknown as string,
    bodySerializer: (body: unknown) => body as Blob,
    headers: { 'Content-Type': 'application/octet-stream' },
  })
}
