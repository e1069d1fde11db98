import { execFileSync } from 'node:child_process';
import { chmodSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Behaviour of a stand-in encoder. */
export interface StandIn {
  /** Its name in the media library, such as "h264_standin". */
  name: string;
  /** The encoder that does the work. */
  by: string;
  /** Device type that frames must be uploaded to. */
  device?: string;
  /** Fails on every call, or outputs black. */
  fault?: 'fails' | 'black';
  /** A size that it rejects, as "640x360". */
  refuses?: string;
}

/**
 * Simulates a machine with these hardware encoders: a program that lists them beside the media library's own, and
 * delegates to software encoders. Returns the folder to prepend to the path; the file `used` in it names the encoders
 * that were called.
 */
export function standInHardware(folder: string, encoders: readonly StandIn[]): string {
  const real = execFileSync('which', ['ffmpeg']).toString().trim();
  mkdirSync(folder, { recursive: true });
  const cases = encoders.map(
    ({ name, by, device, fault, refuses }) => `
  if [[ "$a" == ${name} ]]; then
    echo ${name} >> '${folder}/used'
    ${fault === 'fails' ? 'exit 1' : ''}
    ${refuses ? `[[ " $* " == *" ${refuses} "* ]] && exit 1` : ''}
    ${device ? `[[ " $* " == *"-init_hw_device ${device}=unit -filter_hw_device unit"* && " $* " == *,hwupload* ]] || exit 1` : ''}
    a=${by}; ${fault === 'black' ? 'black=,lutyuv=y=16' : ''}
  fi`,
  );
  const script = `#!/bin/bash
case " $* " in
*" -encoders "*) ${real} "$@"; ${encoders.map(({ name }) => `echo " V....D ${name} A stand-in";`).join(' ')} exit;;
*" -hwaccels "*) ${real} "$@"; ${encoders.map(({ device }) => (device ? `echo ${device};` : '')).join(' ')} exit;;
esac
black= args=() skip=
for a in "$@"; do
  if [[ $skip ]]; then skip=; continue; fi
  ${cases.join('')}
  case "$a" in -init_hw_device|-filter_hw_device) skip=1; continue;; esac
  args+=("\${a//,hwupload/}")
done
for k in "\${!args[@]}"; do
  if [[ $black && "\${args[k]}" == *format=nv12* ]]; then args[k]+="$black"; fi
done
exec ${real} "\${args[@]}"
`;
  writeFileSync(join(folder, 'ffmpeg'), script);
  chmodSync(join(folder, 'ffmpeg'), 0o755);
  return folder;
}
