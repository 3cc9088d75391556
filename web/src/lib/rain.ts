/** Rain for two seconds, made of noise; nothing where a browser makes no sound. */
export function soundOfRain(): void {
  if (typeof AudioContext === "undefined") return;
  const context = new AudioContext();
  const seconds = 2;
  const noise = context.createBuffer(1, context.sampleRate * seconds, context.sampleRate);
  const data = noise.getChannelData(0);
  for (let i = 0; i < data.length; i++) data[i] = (Math.random() * 2 - 1) * Math.sin((Math.PI * i) / data.length);
  const source = new AudioBufferSourceNode(context, { buffer: noise });
  const soft = new BiquadFilterNode(context, { type: "lowpass", frequency: 2400 });
  const quiet = new GainNode(context, { gain: 0.12 });
  source.connect(soft).connect(quiet).connect(context.destination);
  source.onended = () => void context.close();
  source.start();
}
