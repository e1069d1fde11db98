import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { View } from 'react-native';
import {
  CODECS,
  DELIVERY_INFO,
  EFFORTS,
  holdsHlg,
  NAME_PARTS,
  type Codec,
  type Delivery,
} from '@inkavo/core/model/delivery';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { NumberSpec } from '@inkavo/core/steps';
import { api } from '../../api/client';
import { Ruler } from '../../instruments/Ruler';
import { Button } from '../../ui/Button';
import { Choice, ChoiceList } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Txt } from '../../ui/Txt';
import { ChevronDown } from '../../ui/icons';
import { ShapeChoice } from '../ShapeChoice';

/** Codecs shown before all are requested. */
const FIRST: readonly Codec[] = ['h264', 'h265', 'ffv1'];
const LINES = [2160, 1440, 1080, 720] as const;
const RATES = [24, 25, 30, 60] as const;

const QUALITY: NumberSpec = {
  ...{ key: 'quality', label: 'Quality (lower is finer)', unit: 'whole' },
  ...{ min: 8, max: 40, neutral: 18, step: 1 },
};
const PLACE: NumberSpec = {
  ...{ key: 'place', label: 'Where it is cut (0 % left or top)', unit: 'percent' },
  ...{ min: 0, max: 1, neutral: 0.5, step: 0.01 },
};
const EFFORT_TITLES: Record<Delivery['effort'], string> = {
  fast: 'Fast',
  quick: 'Quick',
  even: 'Even',
  careful: 'Small',
};
const NONE = 'own';
const INSIDE = {
  value: 'inside',
  title: 'Cut, with bars',
  label: 'Cut, with bars that keep the file’s own shape',
} as const;

/** A heading over a row of choices. */
function Row({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <View className="gap-1">
      <Txt size="sm" quiet>
        {title}
      </Txt>
      {children}
    </View>
  );
}

/** Export settings. Rarely changed ones are behind a button. */
export function DeliveryFields({
  value,
  facts,
  onChange,
  film,
  hlg,
}: {
  value: Delivery;
  /** The largest of the clips, which limits the sizes offered. */
  facts: Pick<MediaFacts, 'width' | 'height'>;
  onChange(part: Partial<Delivery>): void;
  /** For films: name and sound are set elsewhere. */
  film?: boolean;
  /** All clips were recorded in HLG. */
  hlg?: boolean;
}) {
  const { data: codecs } = useQuery({ queryKey: ['codecs'], queryFn: api.codecs, staleTime: Infinity });
  const [all, setAll] = useState(!FIRST.includes(value.codec));
  const [more, setMore] = useState(false);
  const own = Math.min(facts.width, facts.height);
  const offered = CODECS.filter(
    (c) => (codecs?.some((o) => o.codec === c) ?? FIRST.includes(c)) && (all || FIRST.includes(c)),
  );
  const fast = codecs?.some((o) => o.codec === value.codec && o.fast) ?? value.effort === 'fast';
  // Stored on a machine with a hardware encoder and used on one without, or with a codec that it does not support.
  const unitGone = value.effort === 'fast' && !fast;
  useEffect(() => {
    if (unitGone) onChange({ effort: 'quick' });
  }, [unitGone, onChange]);
  const changed = [
    value.aspect ?? '',
    value.rate ? `${value.rate.num / value.rate.den} fps` : '',
    value.sound === 'off' ? 'no sound' : '',
    value.name === '{clip}' || film ? '' : value.name,
  ].filter(Boolean);
  const lines = LINES.filter((n) => n < own);
  return (
    <>
      <ChoiceList
        label="Format"
        value={value.codec}
        options={offered.map((c) => ({ value: c, title: DELIVERY_INFO[c].title, note: DELIVERY_INFO[c].use }))}
        onChange={(codec) => onChange({ codec })}
      />
      {all ? null : <Button title="Other formats" look="bare" onPress={() => setAll(true)} />}
      {hlg ? (
        holdsHlg(value.codec) ? (
          <Row title="Colour">
            <Choice
              label="Colour"
              value={value.colour}
              options={[
                { value: 'standard', title: 'Standard video' },
                { value: 'hlg', title: 'HLG, as filmed' },
              ]}
              onChange={(colour) => onChange({ colour })}
            />
          </Row>
        ) : (
          <Txt size="sm" quiet>
            Filmed in HLG: it leaves as standard video, since HLG needs a format with 10 bits.
          </Txt>
        )
      ) : null}
      {lines.length > 0 ? (
        <Row title="Size, by the shorter side">
          <Choice
            label="Size"
            value={value.lines === null || value.lines >= own ? NONE : String(value.lines)}
            options={[
              { value: NONE, title: 'As filmed' },
              ...lines.map((n) => ({ value: String(n), title: String(n), label: `${n} lines` })),
            ]}
            onChange={(v) => onChange({ lines: v === NONE ? null : Number(v) })}
          />
        </Row>
      ) : null}
      {DELIVERY_INFO[value.codec].quality ? (
        <>
          <Ruler
            spec={QUALITY}
            value={value.quality}
            onChange={(v) => onChange({ quality: Math.round(v) })}
            onSettle={() => undefined}
          />
          <Row title="Encoding">
            <Choice
              label="Encoding"
              value={value.effort}
              options={EFFORTS.filter((e) => e !== 'fast' || fast).map((e) => ({ value: e, title: EFFORT_TITLES[e] }))}
              onChange={(effort) => onChange({ effort })}
            />
          </Row>
          {value.effort === 'fast' ? (
            <Txt size="sm" quiet>
              By a hardware encoder: the soonest, in a larger file.
            </Txt>
          ) : null}
        </>
      ) : null}
      <Button
        title={more ? 'Less' : ['Shape, frame rate, sound, name', ...changed].join(' · ')}
        icon={more ? undefined : ChevronDown}
        look="bare"
        aria-expanded={more}
        onPress={() => setMore(!more)}
      />
      {more ? <MoreFields value={value} film={film} onChange={onChange} /> : null}
    </>
  );
}

function MoreFields({
  value,
  film,
  onChange,
}: {
  value: Delivery;
  film?: boolean;
  onChange(part: Partial<Delivery>): void;
}) {
  const rate = value.rate ? String(value.rate.num / value.rate.den) : NONE;
  return (
    <>
      <Row title="Shape">
        <ShapeChoice
          value={value.aspect}
          own="As filmed"
          // Bars only apply with an aspect ratio.
          onChange={(aspect) => onChange({ aspect, ...(!aspect && value.fit === 'inside' ? { fit: 'crop' } : {}) })}
        />
      </Row>
      {value.aspect || film ? (
        <Choice
          label="How it comes into that shape"
          value={value.fit}
          options={[
            { value: 'crop', title: 'Cut to it' },
            { value: 'bars', title: 'Whole, with bars' },
            ...(value.aspect ? [INSIDE] : []),
          ]}
          onChange={(fit) => onChange({ fit })}
        />
      ) : null}
      {value.aspect && value.fit !== 'bars' ? (
        <Ruler spec={PLACE} value={value.place} onChange={(place) => onChange({ place })} onSettle={() => undefined} />
      ) : null}
      <Row title="Frames a second">
        <Choice
          label="Frames a second"
          value={rate}
          options={[
            { value: NONE, title: film ? 'As most clips' : 'As filmed' },
            ...RATES.map((r) => ({ value: String(r), title: String(r) })),
          ]}
          onChange={(v) => onChange({ rate: v === NONE ? null : { num: Number(v), den: 1 } })}
        />
      </Row>
      <Choice
        label="Sound"
        value={value.sound}
        options={[
          { value: 'kept', title: 'With sound' },
          { value: 'off', title: 'Without' },
        ]}
        onChange={(sound) => onChange({ sound })}
      />
      {film ? null : (
        <>
          <Field label="Name of the file" value={value.name} maxLength={200} onChange={(name) => onChange({ name })} />
          <Txt size="sm" quiet>
            {NAME_PARTS.map((p) => `{${p}}`).join(' ')} stand for what they say. A name that is taken gets a number.
          </Txt>
        </>
      )}
    </>
  );
}
