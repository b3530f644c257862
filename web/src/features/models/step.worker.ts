import occt from 'occt-import-js';
import wasm from 'occt-import-js/dist/occt-import-js.wasm?url';

/** A mesh of a body: corners and triangles in millimetres. */
export interface Mesh {
  position: Float32Array;
  normal?: Float32Array;
  index: Uint32Array;
  color?: [number, number, number];
}

/** Reads a STEP file away from the page, so that the page stays quick. */
self.onmessage = async (e: MessageEvent<Uint8Array>) => {
  try {
    const reader = await occt({ locateFile: () => wasm });
    const read = reader.ReadStepFile(e.data, { linearUnit: 'millimeter' });
    if (!read.success || read.meshes.length === 0) throw new Error('There is no solid in the file that can be drawn.');
    const meshes: Mesh[] = read.meshes.map((m) => ({
      position: new Float32Array(m.attributes.position.array),
      normal: m.attributes.normal && new Float32Array(m.attributes.normal.array),
      index: new Uint32Array(m.index.array),
      color: m.color,
    }));
    self.postMessage({ meshes });
  } catch (err) {
    self.postMessage({ error: err instanceof Error ? err.message : 'The file cannot be drawn.' });
  }
};
