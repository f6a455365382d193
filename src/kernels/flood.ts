/** Over a mesh, from face to face: what a dab may touch. */

export interface Triangles {
  positions: Float32Array;
  indices: Uint32Array;
}

export interface FloodMesh extends Triangles {
  /** Neighbours in space of face f: neighbours[start[f] … start[f + 1]). */
  start: Uint32Array;
  neighbours: Uint32Array;
  /** 1: a face that is not there. */
  hidden: Uint8Array;
  /** By face: `included` where a flood has come to it, one less where it was looked at and left out. */
  stamp: Uint32Array;
  /** Faces that the flood came to, in the order it did. */
  reached: Uint32Array;
}

/** Blocks of texels by face: faceBlocks[faceBlockStart[f] … faceBlockStart[f + 1]). */
export interface FaceBlocks {
  faceBlockStart: Uint32Array;
  faceBlocks: Uint32Array;
  /** min x, y, z, max x, y, z of each block. */
  blockBounds: Float32Array;
  /** By block: the turn in which it was looked at last. */
  seen: Uint32Array;
  /** What was found. */
  near: Uint32Array;
}

export interface FloodKernels {
  /**
   * Marks the faces that can be reached from one over shared edges without leaving a ball, and those around them whose
   * gutters may lie in it: up to `beyond` outside. Gives how many; `included` is odd and grows from flood to flood.
   */
  flood(mesh: FloodMesh, from: number, x: number, y: number, z: number, radius: number, beyond: number, included: number): number;
  /** Blocks of some faces which a ball may reach, each once; gives how many. `turn` is another one each time. */
  nearBlocks(
    blocks: FaceBlocks,
    faces: Uint32Array,
    count: number,
    turn: number,
    x: number,
    y: number,
    z: number,
    reach: number,
  ): number;
}
