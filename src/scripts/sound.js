// Plays simulated sounds where they stand, one at a time; without script the link opens the sound.
let playing = null;

document.addEventListener("click", (event) => {
  const link = event.target.closest("a[data-sound]");
  if (!link || event.metaKey || event.ctrlKey || event.shiftKey) return;
  event.preventDefault();
  playing?.pause();
  playing = new Audio(link.href);
  link.setAttribute("aria-pressed", "true");
  const done = () => link.removeAttribute("aria-pressed");
  for (const name of ["ended", "pause", "error"]) playing.addEventListener(name, done);
  playing.play().catch(done);
});
