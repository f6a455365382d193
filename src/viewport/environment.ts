/** The light of the bench, made here: an overcast sky over a quay, with two soft windows for metals to reflect. */
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
  type Texture,
  type WebGLRenderer,
} from 'three';

/** Radians that edges are softened by; texels of small faces are as wide, and need none. */
const SOFTENED = 0.03;

/** `size`: pixels of a face of the sharpest reflection. */
export function makeEnvironment(renderer: WebGLRenderer, size: number): Texture {
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
  const generator = new PMREMGenerator(renderer);
  const { texture } = generator.fromScene(scene, Math.PI / 2 / size < SOFTENED / 2 ? SOFTENED : 0, 0.1, 100, { size });
  generator.dispose();
  scene.traverse((o) => {
    if (o instanceof Mesh) {
      o.geometry.dispose();
      (o.material as MeshBasicMaterial).dispose();
    }
  });
  return texture;
}
