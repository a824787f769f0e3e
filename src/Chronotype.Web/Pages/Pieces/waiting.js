// Tells whoever waits what is done for the piece just now, how far it is and how long it still takes; nothing where it is quick.
export function waiting(piece, say) {
  let isOver = false;
  const look = async () => {
    if (isOver || !piece) return;
    try {
      const told = await (await fetch(`/pieces/${piece}/going-on`)).json();
      if (!isOver && told.said) say(told.said);
    } catch { /* It is only told; the work goes on. */ }
    if (!isOver) setTimeout(look, 1000);
  };
  const first = setTimeout(look, 700);
  return () => {
    if (isOver) return;
    isOver = true;
    clearTimeout(first);
    say('');
  };
}
