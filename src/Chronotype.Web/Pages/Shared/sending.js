// Sends one file to where it belongs. What is large goes in parts, by the tus protocol, and goes on where it was cut off: after a
// broken connection by itself, after a reload when the same file is sent again.
const large = 8e6;
const token = () => document.querySelector('[name=__RequestVerificationToken]').value;

// A sent file leads on to another page; a reload before that would cut it off.
let underWay = 0;
export const isSending = () => underWay > 0;

let tus;
const client = () => tus ??= new Promise((done, no) => {
  const script = document.createElement('script');
  script.src = '/js/tus.min.js';
  script.onload = () => done(window.tus);
  script.onerror = () => no(new Error('tus'));
  document.head.append(script);
});

/**
 * @param item `{ body, name, address, fields }`: the file, what it is called, the form's address and its fields.
 * @param progress Takes bytes sent and bytes in all.
 * @returns `{ done, abort }`: a promise of `{ ok, location, said }` or `{ error }`, which never rejects; and what stops it.
 */
export function send(item, { progress = () => {}, isOneOfMany = false } = {}) {
  const stop = { abort: () => {}, isStopped: false };
  const done = item.body.size > large ? inParts(item, progress, isOneOfMany, stop) : asForm(item, item.body, progress, isOneOfMany, stop);
  underWay++;
  done.then(answer => { if (!answer.ok) underWay--; });
  return { done, abort: () => { stop.isStopped = true; stop.abort(); } };
}

function asForm(item, body, progress, isOneOfMany, stop, upload) {
  return new Promise(end => {
    const request = new XMLHttpRequest();
    const form = new FormData();
    // Fields go before the file, so that the server can check them before it reads the rest.
    for (const [field, value] of Object.entries(item.fields ?? {})) form.append(field, value);
    if (upload) form.append('upload', upload);
    else form.append('file', body, item.name);
    request.upload.onprogress = e => upload || progress(e.loaded, e.total);
    request.onload = () => {
      let answer = {};
      try { answer = JSON.parse(request.responseText); } catch { /* told by the status */ }
      end(request.status < 300 && answer.location ? { ...answer, ok: true } : {
        error: answer.error ?? `The server answered with an error (${request.status}). Nothing that was stored before is lost; try again.`,
      });
    };
    request.onerror = () => end({ error: 'The connection broke before the whole file had arrived. Nothing older is touched: send it again.' });
    request.onabort = () => end({ error: 'Stopped; nothing of it was kept.' });
    request.open('POST', item.address);
    request.setRequestHeader('Accept', 'application/json');
    request.setRequestHeader('X-Form-Token', token());
    if (isOneOfMany) request.setRequestHeader('X-One-Of-Many', '1');
    stop.abort = () => request.abort();
    request.send(form);
  });
}

async function inParts(item, progress, isOneOfMany, stop) {
  let made;
  try { made = await client(); } catch { return asForm(item, item.body, progress, isOneOfMany, stop); }
  const sent = await new Promise(end => {
    const upload = new made.Upload(item.body, {
      endpoint: '/uploads',
      retryDelays: [0, 1000, 3000, 5000, 10000, 20000, 30000],
      headers: { 'X-Form-Token': token() },
      metadata: { filename: item.name },
      removeFingerprintOnSuccess: true,
      onProgress: progress,
      onError: e => end({
        error: e.originalResponse?.getStatus() === 507 ? e.originalResponse.getBody()
          : 'The connection broke, and several tries did not mend it. What has arrived is held for three days: send the same file again, and it goes on there.',
      }),
      onSuccess: () => end({ upload: upload.url.split('/').pop() }),
    });
    stop.abort = () => { upload.abort(true); end({ error: 'Stopped; nothing of it was kept.' }); };
    upload.findPreviousUploads().then(before => {
      if (before.length) upload.resumeFromPreviousUpload(before[0]);
      if (!stop.isStopped) upload.start();
    });
  });
  return sent.upload ? asForm(item, null, progress, isOneOfMany, stop, sent.upload) : sent;
}
