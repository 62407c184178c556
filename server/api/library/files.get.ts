import { exportLibrary } from '../../library/exporting'

/** The library as the files of a folder of texts, for whoever asks: what they may edit. */
export default route(async (context, _, app) => ({
  files: [...(await exportLibrary(context, app))].map(([path, bytes]) => ({ path, base64: Buffer.from(bytes).toString('base64') })),
}))
