// Draws the pages of documents. Where they cannot be drawn, it is said, and what is written on them is told beside.
import { getDocument, GlobalWorkerOptions } from '../pdf.min.js';

GlobalWorkerOptions.workerSrc = new URL('../pdf.worker.min.js', import.meta.url).href;
const at = folder => new URL(`../../pdf/${folder}/`, import.meta.url).href;

async function draw(canvas) {
  const side = canvas.parentElement;
  try {
    const document = await getDocument({
      url: canvas.dataset.document, isEvalSupported: false, enableXfa: false, cMapUrl: at('cmaps'), cMapPacked: true,
      standardFontDataUrl: at('standard_fonts'), useWasm: false, useSystemFonts: false,
    }).promise;
    const page = await document.getPage(Math.min(Number(canvas.dataset.page), document.numPages));
    const whole = page.getViewport({ scale: 1 });
    const paint = async () => {
      const scale = Math.min(side.clientWidth / whole.width, side.clientHeight / whole.height);
      const ratio = window.devicePixelRatio || 1;
      const viewport = page.getViewport({ scale: scale * ratio });
      canvas.width = Math.floor(viewport.width);
      canvas.height = Math.floor(viewport.height);
      // A page's own size on the screen is a matter of the element, which no style sheet can know.
      Object.assign(canvas.style, { width: `${viewport.width / ratio}px`, height: `${viewport.height / ratio}px` });
      await page.render({ canvas, canvasContext: canvas.getContext('2d'), viewport }).promise;
      canvas.dataset.drawn = 'true';
    };
    await paint();
    let due = null;
    new ResizeObserver(() => { clearTimeout(due); due = setTimeout(() => canvas.isConnected && paint().catch(() => {}), 200); }).observe(side);
  } catch {
    const said = window.document.createElement('p');
    said.className = 'blank';
    said.textContent = 'This page could not be drawn. Download the file to see it.';
    canvas.replaceWith(said);
  }
}

function ready() {
  for (const canvas of document.querySelectorAll('canvas[data-document]:not([data-opened])')) {
    canvas.dataset.opened = 'true';
    draw(canvas);
  }
}
ready();
document.addEventListener('htmx:after:swap', ready);
