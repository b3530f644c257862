declare module 'occt-import-js' {
  interface Read {
    success: boolean;
    meshes: {
      attributes: { position: { array: number[] }; normal?: { array: number[] } };
      index: { array: number[] };
      color?: [number, number, number];
    }[];
  }
  interface Reader {
    ReadStepFile(file: Uint8Array, params: { linearUnit: string } | null): Read;
  }
  export default function occt(options: { locateFile: (name: string) => string }): Promise<Reader>;
}
