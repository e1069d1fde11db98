import { audioTracks, fps } from '@inkavo/core/model/facts';
import { openSource, type Command } from '../call';

/** inkavo read: properties of a file. */
export const read: Command = {
  usage: 'read FILE',
  options: [],
  async run(file) {
    const { facts } = await openSource(file);
    const { tags } = facts;
    const sound = audioTracks(facts).map((t) => `${t.codec}, ${t.channels} channels, ${t.sampleRate} Hz`);
    const rate = `${Number(fps(facts).toFixed(3))} frames/s${facts.variableRate ? ' (varies in the file)' : ''}`;
    return {
      data: facts,
      lines: [
        `${facts.codec}, ${facts.width}×${facts.height}, ${rate}, ${facts.frames} frames, ${facts.durationSeconds.toFixed(2)} s`,
        `${facts.depth} bit, ${facts.chroma.split('').join(':')}, ${facts.range} range, matrix ${facts.matrix}${tags.matrix ? '' : ' (taken, the file names none)'}`,
        `tags: primaries ${tags.primaries ?? 'none'}, transfer ${tags.transfer ?? 'none'}, rotation ${facts.rotation}°`,
        sound.length ? `sound: ${sound.join('; ')}` : 'no sound',
      ],
    };
  },
};
