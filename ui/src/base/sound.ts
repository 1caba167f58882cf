let audio: AudioContext | undefined;

/** Plays a tone of so many hertz for so many seconds, after a while. */
function tone(hertz: number, seconds: number, after = 0) {
  if (!audio) return;
  const o = audio.createOscillator();
  const g = audio.createGain();
  o.frequency.value = hertz;
  g.gain.value = 0.15;
  o.connect(g).connect(audio.destination);
  o.start(audio.currentTime + after);
  o.stop(audio.currentTime + after + seconds);
}

/** A short high tone for what is right, two low ones and a shake for what is wrong. A browser without sound stays silent. */
export function sound(right: boolean) {
  try {
    audio ??= new AudioContext();
    if (right) return tone(1200, 0.08);
    tone(180, 0.22);
    tone(140, 0.3, 0.28);
    navigator.vibrate?.([180, 90, 180]);
  } catch {
    audio = undefined;
  }
}
