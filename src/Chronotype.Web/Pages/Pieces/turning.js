// Scenes that can be turned: two of them as one, and their animations played. Nothing that a scene names outside itself is fetched, and
// where the browser draws no scenes the picture that the page has stays.
import { AmbientLight, AnimationMixer, Box3, Color, DirectionalLight, LoadingManager, PerspectiveCamera, Scene, Vector3, WebGLRenderer } from '../three/three.module.js';
import { GLTFLoader } from '../three/GLTFLoader.js';
import { OrbitControls } from '../three/OrbitControls.js';

const nothing = 'data:application/octet-stream;base64,AAAA';

async function load(address) {
  const bytes = await (await fetch(address)).arrayBuffer();
  const manager = new LoadingManager();
  manager.setURLModifier(url => (/^(blob|data):/.test(url) ? url : nothing));
  return new GLTFLoader(manager).parseAsync(bytes, '');
}

async function open(stage) {
  const sides = [...stage.querySelectorAll('.side')];
  const loaded = await Promise.all(stage.dataset.scenes.split(' ').map(load));
  if (!stage.isConnected) return;
  // One room for both, so that what grew is seen to have grown.
  const box = new Box3();
  for (const { scene } of loaded) box.expandByObject(scene);
  const [middle, size] = [box.getCenter(new Vector3()), box.getSize(new Vector3()).length() || 1];
  const camera = new PerspectiveCamera(35, 1, size / 1000, size * 20);
  camera.position.copy(middle).add(new Vector3(0.7, 0.45, 1).normalize().multiplyScalar(size * 1.5));
  const views = loaded.map((gltf, i) => {
    const scene = new Scene();
    scene.background = new Color(getComputedStyle(stage.closest('.easel')).backgroundColor);
    const sun = new DirectionalLight(0xffffff, 2.4);
    sun.position.copy(middle).add(new Vector3(size, size * 1.5, size));
    sun.target.position.copy(middle);
    scene.add(new AmbientLight(0xffffff, 1.1), sun, sun.target, gltf.scene);
    const renderer = new WebGLRenderer({ antialias: true });
    renderer.setPixelRatio(window.devicePixelRatio || 1);
    const { domElement } = renderer;
    domElement.tabIndex = 0;
    domElement.setAttribute('role', 'application');
    domElement.setAttribute('aria-label', `${sides[i].querySelector('img').alt}: drag or use the arrow keys to turn it, scroll to come closer`);
    sides[i].append(domElement);
    const mixer = new AnimationMixer(gltf.scene);
    for (const clip of gltf.animations) mixer.clipAction(clip).play();
    const controls = new OrbitControls(camera, domElement);
    controls.target.copy(middle);
    controls.addEventListener('change', () => draw());
    domElement.addEventListener('keydown', e => {
      const turn = { ArrowLeft: [-0.15, 0], ArrowRight: [0.15, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] }[e.key];
      if (!turn) return;
      e.preventDefault();
      e.stopPropagation();
      const arm = camera.position.clone().sub(middle);
      arm.applyAxisAngle(new Vector3(0, 1, 0), turn[0]);
      arm.applyAxisAngle(new Vector3().crossVectors(arm, camera.up).normalize(), turn[1]);
      camera.position.copy(middle).add(arm);
      for (const v of views) v.controls.update();
      draw();
    });
    return { renderer, scene, mixer, controls, side: sides[i], moves: gltf.animations.length > 0 };
  });
  const draw = () => {
    for (const v of views) {
      const [width, height] = [Math.max(1, v.side.clientWidth), Math.max(1, v.side.clientHeight)];
      v.renderer.setSize(width, height);
      camera.aspect = width / height;
      camera.updateProjectionMatrix();
      v.renderer.render(v.scene, camera);
    }
  };
  for (const v of views) v.controls.update();
  draw();
  stage.classList.add('turned');
  new ResizeObserver(draw).observe(stage);
  if (views.some(v => v.moves)) moving(stage, views, draw);
}

function moving(stage, views, draw) {
  const bar = document.createElement('div');
  bar.className = 'zoom';
  const button = document.createElement('button');
  button.type = 'button';
  bar.append(button);
  stage.closest('.easel').append(bar);
  let last = null;
  const step = now => {
    if (!stage.isConnected || last === null) return;
    for (const v of views) v.mixer.update((now - last) / 1000);
    last = now;
    draw();
    requestAnimationFrame(step);
  };
  const run = on => {
    last = on ? performance.now() : null;
    button.textContent = on ? '❚❚ Pause' : '▶ Play its animation';
    button.setAttribute('aria-pressed', String(on));
    if (on) requestAnimationFrame(step);
  };
  button.addEventListener('click', () => run(last === null));
  run(false);
}

function ready() {
  const stage = document.querySelector('[data-scenes]:not([data-scenes=""]):not([data-opened])');
  if (!stage) return;
  stage.dataset.opened = 'true';
  // The picture stays where a scene cannot be turned here.
  open(stage).catch(e => { stage.dataset.still = e.message; for (const canvas of stage.querySelectorAll('canvas')) canvas.remove(); });
}
ready();
document.addEventListener('htmx:after:swap', ready);
