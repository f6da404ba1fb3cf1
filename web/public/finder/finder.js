// Runs the face mesh on a picture and answers with landmarks in parts of the picture's sides. It lives
// in a frame of its own because the library compiles code at run time, which the application's own
// content policy does not allow.
let mesh
let found = []

async function load() {
  const m = new window.FaceMesh({ locateFile: (name) => name })
  m.setOptions({ staticImageMode: true, maxNumFaces: 4, refineLandmarks: true, minDetectionConfidence: 0.4 })
  m.onResults((r) => (found = r.multiFaceLandmarks ?? []))
  await m.initialize()
  return m
}

/** The mesh, loaded once whoever asks first. */
function ready() {
  mesh ??= load()
  return mesh
}

async function find(src) {
  const image = new Image()
  image.src = src
  await image.decode()
  const m = await ready()
  found = []
  m.reset()
  await m.send({ image })
  return found.map((face) => face.map((p) => [p.x, p.y, p.z]))
}

window.addEventListener('message', async (e) => {
  if (e.origin !== window.location.origin || e.source !== window.parent) return
  const { id, src, warm } = e.data
  try {
    if (warm) await ready()
    else window.parent.postMessage({ id, faces: await find(src) }, window.location.origin)
  } catch (problem) {
    window.parent.postMessage({ id, problem: String(problem) }, window.location.origin)
  }
})
window.parent.postMessage({ ready: true }, window.location.origin)
