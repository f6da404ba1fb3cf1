// The sum of plates, drawn while sliders move: pictures are made linear, weighted, added and coded again by the graphics processor.
// What it draws is a preview; the picture of record comes from the server.

const VERTEX = `#version 300 es
in vec2 at; out vec2 uv;
void main() { uv = vec2(at.x, 1.0 - at.y); gl_Position = vec4(at * 2.0 - 1.0, 0.0, 1.0); }`

const FRAGMENT = `#version 300 es
precision highp float; precision highp sampler2DArray;
uniform sampler2DArray plates; uniform sampler2DArray masks; uniform bool masked; uniform vec3 factors[40]; uniform float gains[41]; uniform int count; uniform bool dark;
in vec2 uv; out vec4 colour;
vec3 coded(vec3 l) { return mix(l * 12.92, 1.055 * pow(l, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, l)); }
void main() {
  vec3 floor_ = dark ? texture(plates, vec3(uv, float(count))).rgb * gains[count] : vec3(0.0);
  vec3 sum = floor_;
  for (int k = 0; k < 40; k++) {
    if (k >= count) break;
    float counts = masked ? texture(masks, vec3(uv, float(k))).r : 1.0;
    sum += max(texture(plates, vec3(uv, float(k))).rgb * gains[k] - floor_, 0.0) * factors[k] * counts;
  }
  colour = vec4(coded(clamp(sum, 0.0, 1.0)), 1.0);
}`

/** Draws that follow each other within so many milliseconds are one movement; a frame at thirty a second takes so many. */
const MOVING_MS = 700
const FRAME_MS = 1000 / 30
const SMALLEST = 0.25
/** The share of the size that is drawn next, by how long frames took: smaller where they are late, larger where there is time. */
export function paced(scale: number, frameMs: number): number {
  // what a frame takes goes with its area
  if (frameMs > 1.15 * FRAME_MS) return Math.max(SMALLEST, scale * Math.max(0.5, Math.sqrt(FRAME_MS / frameMs)))
  if (frameMs < 0.7 * FRAME_MS) return Math.min(1, 1.1 * scale)
  return scale
}

export type Factor = readonly [number, number, number]

export class Mixer {
  private readonly gl: WebGL2RenderingContext
  private readonly program: WebGLProgram
  private texture: WebGLTexture | null = null
  private count = 0
  private dark = false
  /** Width and height of the plates, and the share of that which is drawn while something moves. */
  private full: [number, number] = [0, 0]
  private scale = 1
  private last = 0
  private pace = 0
  private rest: ReturnType<typeof setTimeout> | undefined
  private gains: readonly number[] = []
  /** Masks of all plates in one texture, made when the first is painted, with the size of each. */
  private masks: { texture: WebGLTexture; width: number; height: number } | null = null

  private constructor(gl: WebGL2RenderingContext, program: WebGLProgram) {
    this.gl = gl
    this.program = program
  }

  /** A mixer on a canvas, or nothing where there is no such processor. */
  static on(canvas: HTMLCanvasElement): Mixer | null {
    const gl = canvas.getContext('webgl2', { preserveDrawingBuffer: true })
    if (!gl) return null
    const program = gl.createProgram()
    for (const [kind, text] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, FRAGMENT],
    ] as const) {
      const shader = gl.createShader(kind)
      if (!shader) return null
      gl.shaderSource(shader, text)
      gl.compileShader(shader)
      gl.attachShader(program, shader)
    }
    gl.linkProgram(program)
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) return null
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer())
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([0, 0, 1, 0, 0, 1, 1, 1]), gl.STATIC_DRAW)
    const at = gl.getAttribLocation(program, 'at')
    gl.enableVertexAttribArray(at)
    gl.vertexAttribPointer(at, 2, gl.FLOAT, false, 0, 0)
    return new Mixer(gl, program)
  }

  /** Whether it draws there. */
  isOn(canvas: HTMLCanvasElement): boolean {
    return this.gl.canvas === canvas
  }

  /** Takes the plates (coded as sRGB: the processor's own format makes them linear as they are looked up), and the dark frame after them. All of one size, which the canvas takes over. */
  load(plates: readonly ImageBitmap[], dark: ImageBitmap | null) {
    const { gl } = this
    const [first] = plates
    if (!first) return
    if (this.texture) gl.deleteTexture(this.texture)
    if (this.masks) gl.deleteTexture(this.masks.texture)
    this.masks = null
    this.texture = gl.createTexture()
    this.count = plates.length
    this.dark = dark !== null
    const layers = dark ? [...plates, dark] : plates
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.texture)
    gl.texStorage3D(gl.TEXTURE_2D_ARRAY, 1, gl.SRGB8_ALPHA8, first.width, first.height, layers.length)
    layers.forEach((b, k) => gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, 0, 0, 0, k, first.width, first.height, 1, gl.RGBA, gl.UNSIGNED_BYTE, b))
    for (const p of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D_ARRAY, p, gl.LINEAR)
    for (const p of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D_ARRAY, p, gl.CLAMP_TO_EDGE)
    this.full = [first.width, first.height]
    // it is shown as large however large it is drawn
    if (gl.canvas instanceof HTMLCanvasElement) {
      gl.canvas.style.setProperty('--wide', String(first.width))
      gl.canvas.style.setProperty('--high', String(first.height))
    }
  }

  /** A plate counts by a mask, 0 to 255 row by row; all masks are of one size. */
  mask(plate: number, grey: Uint8Array, width: number, height: number) {
    const { gl } = this
    if (plate >= this.count) return
    if (!this.masks || this.masks.width !== width || this.masks.height !== height) {
      if (this.masks) gl.deleteTexture(this.masks.texture)
      const texture = gl.createTexture()
      this.masks = { texture, width, height }
      gl.bindTexture(gl.TEXTURE_2D_ARRAY, texture)
      gl.texStorage3D(gl.TEXTURE_2D_ARRAY, 1, gl.R8, width, height, this.count)
      for (const p of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D_ARRAY, p, gl.LINEAR)
      for (const p of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D_ARRAY, p, gl.CLAMP_TO_EDGE)
      const whole = new Uint8Array(width * height).fill(255)
      for (let k = 0; k < this.count; k++) this.put(k, whole)
    }
    this.put(plate, grey)
  }

  private put(plate: number, grey: Uint8Array) {
    const { gl, masks } = this
    if (!masks) return
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, masks.texture)
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1)
    gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, 0, 0, 0, plate, masks.width, masks.height, 1, gl.RED, gl.UNSIGNED_BYTE, grey)
  }

  /** Draws the sum; `gains` bring each plate, and the dark frame after them, to one exposure. Where a processor cannot follow the hand at
   *  full size it is drawn smaller while something moves, and whole once it rests. */
  draw(factors: readonly Factor[], gains: readonly number[] = []) {
    this.gains = gains
    const now = performance.now()
    const gap = now - this.last
    this.last = now
    const moving = gap < MOVING_MS
    if (moving) {
      this.pace = 0.5 * (this.pace + gap)
      this.scale = paced(this.scale, this.pace)
    } else this.pace = FRAME_MS
    this.paint(factors, moving ? this.scale : 1)
    clearTimeout(this.rest)
    if (moving && this.scale < 1) this.rest = setTimeout(() => this.paint(factors, 1), MOVING_MS)
  }

  private paint(factors: readonly Factor[], scale: number) {
    const { gl, program } = this
    if (!this.texture) return
    const [width, height] = [Math.max(1, Math.round(this.full[0] * scale)), Math.max(1, Math.round(this.full[1] * scale))]
    if (gl.canvas.width !== width || gl.canvas.height !== height) {
      gl.canvas.width = width
      gl.canvas.height = height
      gl.viewport(0, 0, width, height)
    }
    gl.useProgram(program)
    const place = (name: string) => gl.getUniformLocation(program, name)
    gl.uniform3fv(place('factors'), factors.slice(0, this.count).flat())
    gl.uniform1fv(place('gains'), Array.from({ length: this.count + 1 }, (_, k) => this.gains[k] ?? 1))
    gl.uniform1i(place('count'), this.count)
    gl.uniform1i(place('dark'), this.dark ? 1 : 0)
    gl.uniform1i(place('masked'), this.masks ? 1 : 0)
    gl.uniform1i(place('plates'), 0)
    gl.uniform1i(place('masks'), 1)
    gl.activeTexture(gl.TEXTURE1)
    // a sampler must have something to look at
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.masks?.texture ?? this.texture)
    gl.activeTexture(gl.TEXTURE0)
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.texture)
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4)
  }

  /** Gives the memory back. */
  close() {
    clearTimeout(this.rest)
    if (this.texture) this.gl.deleteTexture(this.texture)
    if (this.masks) this.gl.deleteTexture(this.masks.texture)
    this.gl.getExtension('WEBGL_lose_context')?.loseContext()
  }
}

/** Which plates are in: solo before mute. */
export const isIn = (plates: readonly { mute?: boolean; solo?: boolean }[], k: number): boolean => {
  const alone = plates.some((p) => p.solo && !p.mute)
  const p = plates[k]
  return !!p && !p.mute && (!alone || !!p.solo)
}

/** Factors of the plates: their levels, and colours as the server's table has them. */
export function factorsOf(plates: readonly { stops?: number; mired?: number; mute?: boolean; solo?: boolean }[], tints: readonly { mired: number; rgb: [number, number, number] }[]): Factor[] {
  return plates.map((p, k) => {
    if (!isIn(plates, k)) return [0, 0, 0]
    const level = 2 ** (p.stops ?? 0)
    const [r, g, b] = (p.mired && tints.find((t) => t.mired === p.mired)?.rgb) || [1, 1, 1]
    return [level * r, level * g, level * b]
  })
}

/** What brings each frame to the common exposure: its light was let in more by so many stops. */
export const gainsOf = (frames: readonly (string | null | undefined)[], exposed: readonly { frame: string; stops: number }[], asTaken: boolean): number[] =>
  frames.map((f) => (asTaken ? 1 : 2 ** -(exposed.find((e) => e.frame === f)?.stops ?? 0)))
