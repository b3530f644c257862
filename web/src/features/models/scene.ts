import * as three from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { Schemas } from '../../api/client';
import type { Mesh } from './step.worker';

type Land = Schemas['ModelLandPattern'];
type Placement = Schemas['ModelPlacement'];

const mm = (text: string | undefined) => Number(text ?? 0) || 0;
const rad = (text: string | undefined) => (mm(text) * Math.PI) / 180;

/** Draws a body, and the pads it sits on, into an element. Returns what takes it down again. */
export function show(into: HTMLElement, meshes: Mesh[], land: Land | undefined, place: Placement | undefined): () => void {
  const style = getComputedStyle(document.documentElement);
  const scene = new three.Scene();
  const renderer = new three.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
  renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
  into.replaceChildren(renderer.domElement);
  renderer.domElement.tabIndex = 0;
  const camera = new three.PerspectiveCamera(35, 1, 0.01, 5000);
  camera.up.set(0, 0, 1);
  scene.add(new three.HemisphereLight(0xffffff, 0x8a8f80, 2.2));
  const sun = new three.DirectionalLight(0xffffff, 1.6);
  sun.position.set(-3, -5, 8);
  scene.add(sun);

  const body = new three.Group();
  for (const m of meshes) {
    const g = new three.BufferGeometry();
    g.setAttribute('position', new three.BufferAttribute(m.position, 3));
    if (m.normal) g.setAttribute('normal', new three.BufferAttribute(m.normal, 3));
    g.setIndex(new three.BufferAttribute(m.index, 1));
    if (!m.normal) g.computeVertexNormals();
    const color = m.color ? new three.Color(...m.color) : new three.Color(0x4f6b66);
    body.add(new three.Mesh(g, new three.MeshStandardMaterial({ color, roughness: 0.7, metalness: 0.1, side: three.DoubleSide })));
  }
  if (place) {
    // turned about X, then Y, then Z, then moved: as the placement is meant
    body.setRotationFromEuler(new three.Euler(rad(place.turnX), rad(place.turnY), rad(place.turnZ), 'ZYX'));
    body.scale.setScalar(place.scale ? place.scale / 1e6 : 1);
    body.position.set(mm(place.at?.x), mm(place.at?.y), mm(place.at?.z));
  }
  scene.add(body);
  if (land) {
    const copper = new three.MeshStandardMaterial({ color: 0xc98a4b, roughness: 0.4, metalness: 0.6 });
    for (const p of land.pads) {
      const pad = new three.Mesh(new three.BoxGeometry(mm(p.width), mm(p.height), 0.05), copper);
      pad.position.set(mm(p.at.x), mm(p.at.y), -0.025);
      pad.rotation.z = rad(p.turn);
      scene.add(pad);
    }
    const around = new three.Box3().setFromObject(scene);
    const size = around.getSize(new three.Vector3());
    const board = new three.Mesh(
      new three.BoxGeometry(size.x + 2, size.y + 2, 0.4),
      new three.MeshStandardMaterial({ color: 0x2d5a4a, roughness: 0.9, transparent: true, opacity: 0.75 }),
    );
    const c = around.getCenter(new three.Vector3());
    board.position.set(c.x, c.y, -0.26);
    scene.add(board);
  }
  const box = new three.Box3().setFromObject(scene);
  const centre = box.getCenter(new three.Vector3());
  const reach = box.getSize(new three.Vector3()).length() || 1;
  camera.position.set(centre.x - reach * 0.7, centre.y - reach * 1.1, centre.z + reach * 0.9);
  camera.near = reach / 100;
  camera.far = reach * 20;
  const controls = new OrbitControls(camera, renderer.domElement);
  controls.target.copy(centre);
  controls.listenToKeyEvents(renderer.domElement);
  const draw = () => {
    const w = into.clientWidth;
    const h = into.clientHeight;
    renderer.setSize(w, h);
    renderer.setClearColor(style.getPropertyValue('--color-ground').trim() || '#ffffff', 1);
    camera.aspect = w / Math.max(h, 1);
    camera.updateProjectionMatrix();
    renderer.render(scene, camera);
  };
  controls.addEventListener('change', draw);
  const seen = new ResizeObserver(draw);
  seen.observe(into);
  controls.update();
  draw();
  return () => {
    seen.disconnect();
    controls.dispose();
    renderer.dispose();
    into.replaceChildren();
  };
}
