// The share's address as this browser reached the studio: behind a proxy the server knows itself by another name.
for (const told of document.querySelectorAll('[data-share]')) {
  const address = `${location.origin}/share/`;
  told.textContent = told.dataset.share === 'dav' ? address.replace(/^http/, 'dav') : address;
}
