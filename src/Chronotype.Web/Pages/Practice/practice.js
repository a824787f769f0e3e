// The practice desk: opens a file from the share, changes it, and saves it there in one of the ways of desktop programs.
import { LayeredPicture } from './layers.js';
import { Drawing, Sound, Timed } from './others.js';
import { Program, save, ways } from './program.js';

const desk = document.getElementById('practice');
const $ = id => document.getElementById(id);
$('file')?.addEventListener('change', e => { if (e.target.value) location.href = e.target.value; });

const make = (tag, properties = {}, ...children) => {
  const element = Object.assign(document.createElement(tag), properties);
  element.append(...children);
  return element;
};
const button = (says, click, title = '') => make('button', { type: 'button', className: 'button small quiet', textContent: says, title, onclick: click });

if (desk.dataset.share) {
  const log = (method, name, status, ok) => {
    $('said-there').append(make('li', { className: ok ? '' : 'text-danger', textContent: `${method} ${name} → ${status}` }));
    $('said-there').lastChild.scrollIntoView({ block: 'nearest' });
  };
  const program = new Program(desk.dataset.share, desk.dataset.keyUrl, desk.querySelector('input[name=__RequestVerificationToken]').value, log);
  let file = null;
  let sound = null;

  for (const [key, way] of Object.entries(ways)) $('way').append(make('option', { value: key, textContent: way.called }));
  const sayWay = () => { $('way-says').textContent = ways[$('way').value].says; };
  $('way').addEventListener('change', sayWay);
  sayWay();

  const changed = says => {
    $('state').textContent = `${says} Not saved yet.`;
    $('save').disabled = false;
    show();
  };
  const tools = (...elements) => {
    $('tools').replaceChildren(make('div', { className: 'flex flex-wrap items-center gap-2' }, ...elements));
    $('tools').hidden = false;
  };

  async function show() {
    const easel = $('easel');
    if (file instanceof LayeredPicture) {
      let canvas = easel.querySelector('canvas');
      if (!canvas || canvas.width !== file.width || canvas.height !== file.height) {
        canvas = make('canvas', { width: file.width, height: file.height, className: 'sheet-of' });
        canvas.setAttribute('aria-label', 'The picture; paint on the chosen layer with the pointer');
        easel.replaceChildren(canvas);
        paintable(canvas);
      }
      file.drawOn(canvas.getContext('2d'));
      layerTools();
    } else if (file instanceof Drawing) {
      const shown = make('img', { className: 'sheet-of', alt: 'The drawing as it is now', src: URL.createObjectURL(new Blob([file.write()], { type: 'image/svg+xml' })) });
      shown.onload = () => URL.revokeObjectURL(shown.src);
      easel.replaceChildren(shown);
    } else if (file instanceof Sound) {
      if (sound) URL.revokeObjectURL(sound);
      sound = URL.createObjectURL(new Blob([file.write()], { type: 'audio/wav' }));
      const player = make('audio', { controls: true, src: sound });
      easel.replaceChildren(make('div', { className: 'p-6 grid gap-3 text-sheet' }, make('p', { textContent: `${file.seconds.toFixed(2)} s, ${file.rate} Hz, ${file.bits} bits, ${file.channels === 1 ? 'mono' : `${file.channels} channels`}` }), player));
    } else if (file instanceof Timed) {
      const lines = file.isEdit
        ? file.clips().map(c => `${c.name || 'clip'}: ${c.source_range.duration.value} of ${c.source_range.duration.rate} a second`)
        : (file.json.nodes ?? []).map(n => `${n.name || 'node'}: ${(n.translation ?? [0, 0, 0]).map(v => v.toFixed(2)).join(', ')}`);
      easel.replaceChildren(make('pre', { className: 'p-6 text-sheet text-[13px] font-mono whitespace-pre-wrap', textContent: lines.join('\n') }));
    }
  }

  function paintable(canvas) {
    let points = null;
    const at = e => {
      const box = canvas.getBoundingClientRect();
      return [(e.clientX - box.left) * canvas.width / box.width, (e.clientY - box.top) * canvas.height / box.height];
    };
    canvas.addEventListener('pointerdown', e => { points = [at(e)]; canvas.setPointerCapture(e.pointerId); });
    canvas.addEventListener('pointermove', e => {
      if (!points) return;
      points.push(at(e));
      file.paint(points.slice(-2), $('colour').value, Math.max(3, file.width / 60));
      file.drawOn(canvas.getContext('2d'));
    });
    canvas.addEventListener('pointerup', () => {
      if (points?.length > 1) changed('Painted.');
      points = null;
    });
  }

  function layerTools() {
    const colour = $('colour')?.value ?? '#d0562f';
    const list = make('select', { className: 'input !text-[13px] !py-1.5 !w-auto', id: 'layer', onchange: e => { file.chosen = Number(e.target.value); } });
    file.layers.forEach((layer, i) => list.append(make('option', { value: i, textContent: file.name(layer) + (file.isHidden(layer) ? ' (hidden)' : ''), selected: i === file.chosen })));
    list.setAttribute('aria-label', 'The layer that is worked on');
    const picker = make('input', { type: 'color', value: colour, id: 'colour' });
    picker.setAttribute('aria-label', 'Colour');
    tools(
      list, picker,
      button('Paint a band', () => { file.band($('colour').value); changed('Repainted.'); }, 'Or paint on the picture with the pointer'),
      button('Add a layer', () => { file.add(); changed('A layer more.'); }),
      button('Hide or show it', () => { file.toggle(); changed('Hidden or shown.'); }),
      button('Make all layers one', () => { file.flatten(); changed('All layers are one.'); }, 'What cannot be undone in a program: see what the studio says to it'),
    );
  }

  async function open() {
    $('save').disabled = true;
    $('state').textContent = 'Opening…';
    try {
      const bytes = await program.read();
      const ending = program.name.slice(program.name.lastIndexOf('.')).toLowerCase();
      file = ending === '.ora' ? await LayeredPicture.open(bytes)
        : ending === '.svg' ? Drawing.open(bytes)
        : ending === '.wav' ? Sound.open(bytes)
        : Timed.open(bytes);
      if (file instanceof Drawing) tools(button('Turn its colours', () => { file.restyle(); changed('Restyled.'); }), button('Add a dot', () => { file.add(); changed('A dot more.'); }));
      if (file instanceof Sound) tools(button('Cut a second out', () => { file.cut(); changed('Cut.'); }), button('Mix a tone in', () => { file.mix(); changed('Mixed.'); }));
      if (file instanceof Timed) tools(button(file.isEdit ? 'Shorten every other clip' : 'Lift everything', () => { file.retime(); changed(file.isEdit ? 'Retimed.' : 'Moved.'); }));
      await show();
      $('state').textContent = 'As it is on the share.';
    } catch (e) {
      $('state').textContent = `It could not be opened: ${e.message}`;
    }
  }

  async function keepIt() {
    if ($('save').disabled) return;
    $('save').disabled = true;
    $('state').textContent = 'Saving…';
    try {
      $('state').textContent = await save(program, $('way').value, await file.write(), $('mishap').value);
    } catch (e) {
      $('state').textContent = `Not saved: ${e.message}`;
      $('save').disabled = false;
    }
  }

  $('save').addEventListener('click', keepIt);
  $('again').addEventListener('click', open);
  document.addEventListener('keydown', e => {
    if (e.key === 's' && !e.ctrlKey && !e.metaKey && !e.altKey && !e.target.matches('input, select, textarea')) keepIt();
  });
  open();
}
