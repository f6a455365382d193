// React's scheduler holds a MessageChannel open for as long as its process lives, so that a run of tests never ended by itself. Without
// one it uses timers.
delete globalThis.MessageChannel;
