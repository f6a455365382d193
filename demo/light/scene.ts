/** Runs in a browser (make.ts): builds the scene and prepares it for every roughness. */
import {
  BackSide,
  BoxGeometry,
  Color,
  Mesh,
  MeshBasicMaterial,
  PMREMGenerator,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  WebGLRenderer,
} from 'three';

function quay(): Scene {
  const scene = new Scene();
  const sky = new Mesh(
    new SphereGeometry(20, 32, 16),
    new ShaderMaterial({
      side: BackSide,
      vertexShader:
        'varying vec3 d; void main() { d = normalize(position); gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
      fragmentShader: `varying vec3 d;
        void main() {
          float t = clamp(d.y * 0.5 + 0.5, 0.0, 1.0);
          vec3 ground = vec3(0.19, 0.18, 0.17);
          vec3 horizon = vec3(0.52, 0.53, 0.54);
          vec3 zenith = vec3(0.95, 0.97, 1.0);
          vec3 c = mix(mix(ground, horizon, smoothstep(0.3, 0.52, t)), zenith, smoothstep(0.5, 0.95, t));
          gl_FragColor = vec4(c, 1.0);
        }`,
    }),
  );
  scene.add(sky);
  // Panels: [x, y, z, width, height, strength, warmth]
  const panels: [number, number, number, number, number, number, number][] = [
    [6, 7, 5, 5, 6, 9, 0.06],
    [-8, 4, 2, 3, 7, 4.5, -0.05],
    [2, 5, -9, 7, 3, 4, 0],
    [0, 12, 0, 8, 8, 2.2, 0],
  ];
  for (const [x, y, z, w, h, strength, warmth] of panels) {
    const panel = new Mesh(
      new BoxGeometry(w, h, 0.1),
      new MeshBasicMaterial({ color: new Color(1 + warmth, 1, 1 - warmth).multiplyScalar(strength) }),
    );
    panel.position.set(x, y, z);
    panel.lookAt(0, 0, 0);
    scene.add(panel);
  }
  return scene;
}

/** RGBA as float32 of each face of each level, the sharpest level first. Edges are softened by so many radians. */
export function prepared(size: number, levels: number, softened: number): Float32Array[] {
  const renderer = new WebGLRenderer();
  const gl = renderer.getContext();
  const { texture } = new PMREMGenerator(renderer).fromScene(quay(), softened, 0.1, 100, { size });
  // The generator has a least size of its own, and reading its levels as if they were others gives corners of faces.
  const made = (texture.mipmaps as { width: number }[]).map(({ width }) => width);
  if (made.length !== levels || made[0] !== size) throw new Error(`Three prepares levels of ${made.join(', ')} pixels.`);
  const { __webglTexture } = renderer.properties.get(texture) as { __webglTexture: WebGLTexture };
  gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
  const out: Float32Array[] = [];
  for (let level = 0; level < levels; level++)
    for (let face = 0; face < 6; face++) {
      const side = size >> level;
      const pixels = new Float32Array(side * side * 4);
      gl.framebufferTexture2D(
        ...([gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_CUBE_MAP_POSITIVE_X + face, __webglTexture, level] as const),
      );
      gl.readPixels(0, 0, side, side, gl.RGBA, gl.FLOAT, pixels);
      out.push(pixels);
    }
  return out;
}
