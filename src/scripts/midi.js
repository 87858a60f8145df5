// A page on which notes are entered: a field that was changed presses its button, and so does a key of a MIDI
// keyboard, where the browser has one. What it means is worked out by the server.
import { inTurn, press } from "./parts.js";

let listening = false;

function pressed(value) {
  inTurn(() => {
    const button = document.querySelector("#entry [x-ref=played]");
    button.value = value;
    press(button);
  });
}

export const midi = () => ({
  offered: "requestMIDIAccess" in navigator,
  words: listening ? "MIDI keyboard: on" : "MIDI keyboard",

  init() {
    this.$root.querySelector("[aria-current=true]")?.scrollIntoView({ block: "nearest" });
  },

  press(what) { pressed(what); },

  async listen() {
    try {
      const access = await navigator.requestMIDIAccess();
      for (const input of access.inputs.values()) {
        input.onmidimessage = ({ data: [status, key, velocity] }) => {
          if ((status & 0xf0) === 0x90 && velocity) pressed(`midi:${key}`);
        };
      }
      listening = access.inputs.size > 0;
      this.words = listening ? "MIDI keyboard: on" : "No MIDI keyboard found";
    } catch {
      this.words = "The browser gives no MIDI keyboard";
    }
  },
});
