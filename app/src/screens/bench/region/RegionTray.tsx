import { View } from 'react-native';
import type { NumberSpec } from '@inkavo/core/steps';
import type { Region } from '@inkavo/core/regions/region';
import { poseAt, type Shape, type ShapeKind } from '@inkavo/core/regions/shape';
import { Ruler } from '../../../instruments/Ruler';
import { RulerGroup } from '../../../instruments/RulerGroup';
import { useBench } from '../../../state/bench';
import { donePlacing, newShape, regionOf, useRegionTool } from '../../../state/regions';
import { IconButton } from '../../../ui/Button';
import { Choice } from '../../../ui/Choice';
import { Check, Contrast, EllipsisVertical, Grid3x3, Plus, Trash } from '../../../ui/icons';
import { Sheet } from '../../../ui/Sheet';
import { Tool } from '../../../ui/Tool';
import { Txt } from '../../../ui/Txt';
import { useState } from 'react';
import { ColourPage, LightPage } from './MattePages';
import { changeRegion, changeShape, setPose, shapeInHand, usePlayheadSeconds, useRegionStep } from './inHand';
import { RegionSheet } from './RegionSheet';
import { ShapeIcon, SHAPE_TITLES } from './shapeIcons';
import { TimePage } from './TimePage';
import { regionName } from './WhereSheet';

/**
 * Height of the region's controls: pages, a row of tools, a row for combination, and two rulers. As for most steps, so
 * that the picture keeps its size.
 */
export const REGION_HEIGHT = 240;

const PAGES = [
  { value: 'shape', title: 'Shape' },
  { value: 'colour', title: 'Colour' },
  { value: 'light', title: 'Light', label: 'Lightness' },
  { value: 'time', title: 'Time' },
] as const;

const MODES = [
  { value: 'add', title: 'adds' },
  { value: 'subtract', title: 'takes away' },
  { value: 'intersect', title: 'cuts to it' },
] as const;

const length = (key: string, label: string, max: number): NumberSpec => ({
  key,
  label,
  unit: 'percent',
  min: 0,
  max,
  neutral: key === 'feather' ? 0.05 : 0.2,
  step: 0.005,
});
const FEATHER = length('feather', 'Soft edge', 1);
const ROUND = length('round', 'Round corners', 1);

/** The controls of the region in which the step in hand acts. */
function done(): void {
  donePlacing();
  useBench.getState().set({ picking: null });
}

export function RegionTray() {
  const step = useRegionStep();
  const { page, hatched } = useRegionTool();
  const [sheet, setSheet] = useState(false);
  if (!step) return null;
  const region = regionOf(step);
  return (
    <View className="bg-ground pt-[2px]" testID="region-tray">
      <View className="h-[48px] flex-row items-center">
        <IconButton label="Done: back to the step" icon={Check} onPress={done} />
        <View className="min-w-0 flex-1">
          <Choice
            label="What of the region"
            value={page}
            options={PAGES}
            onChange={(next) => {
              useRegionTool.setState({ page: next });
              useBench.getState().set({ picking: null });
            }}
          />
        </View>
        <IconButton
          label="Hatch what is not chosen"
          icon={Grid3x3}
          pressed={hatched}
          className={hatched ? 'border-b-4 border-accent' : ''}
          onPress={() => useRegionTool.setState({ hatched: !hatched })}
        />
        <IconButton
          label={`More about ${regionName(step.label)}`}
          icon={EllipsisVertical}
          onPress={() => setSheet(true)}
        />
      </View>
      {page === 'shape' ? <ShapePage region={region} /> : null}
      {page === 'colour' ? <ColourPage region={region} /> : null}
      {page === 'light' ? <LightPage region={region} /> : null}
      {page === 'time' ? <TimePage region={region} /> : null}
      {sheet ? <RegionSheet step={step} onClose={() => setSheet(false)} /> : null}
    </View>
  );
}

function ShapePage({ region }: { region: Region }) {
  const chosen = useRegionTool((s) => s.shape);
  const seconds = usePlayheadSeconds();
  const [adding, setAdding] = useState(false);
  const shape = shapeInHand(region, chosen);
  const { settle } = useBench.getState();
  const add = (kind: ShapeKind): void => {
    const { opened, view } = useBench.getState();
    if (!opened) return;
    const made = newShape(kind, view, opened.clip.facts.width / opened.clip.facts.height);
    changeRegion((r) => ({ shapes: [...r.shapes, made] }));
    useRegionTool.setState({ shape: made.id, point: null });
    setAdding(false);
  };
  const pose = shape && poseAt(shape, seconds);
  return (
    <>
      <View className="h-[48px] flex-row items-center gap-1 px-2" role="group" aria-label="Shapes">
        {region.shapes.map((s, i) => (
          <IconButton
            key={s.id}
            label={`${SHAPE_TITLES[s.kind]} ${i + 1}, ${MODES.find((m) => m.value === s.mode)!.title}`}
            icon={ShapeIcon[s.kind]}
            pressed={s === shape}
            className={s === shape ? 'border-b-4 border-accent' : ''}
            onPress={() => useRegionTool.setState({ shape: s.id, point: null })}
          />
        ))}
        {region.shapes.length < 12 ? (
          <IconButton label="Add a shape" icon={Plus} onPress={() => setAdding(true)} />
        ) : null}
        <View className="flex-1" />
        {shape ? <PointTools shape={shape} /> : null}
        {shape ? (
          <IconButton
            label="Remove this shape"
            icon={Trash}
            onPress={() => {
              changeRegion((r) => ({ shapes: r.shapes.filter((s) => s.id !== shape.id) }));
              useRegionTool.setState({ shape: null, point: null });
            }}
          />
        ) : null}
      </View>
      {shape && pose ? (
        <>
          {region.shapes[0] === shape && shape.mode === 'add' && !shape.inverted ? null : (
            <View className="h-[48px] flex-row items-center gap-2 px-2">
              <View className="flex-1">
                <Choice
                  label="What this shape does"
                  value={shape.mode}
                  options={MODES}
                  onChange={(mode) => changeShape(shape.id, (s) => ({ ...s, mode }))}
                />
              </View>
              <IconButton
                label="Outside of this shape"
                icon={Contrast}
                pressed={shape.inverted}
                className={shape.inverted ? 'border-stroke border-accent' : ''}
                onPress={() => changeShape(shape.id, (s) => ({ ...s, inverted: !s.inverted }))}
              />
            </View>
          )}
          <RulerGroup keys={shape.kind === 'rectangle' ? ['feather', 'round'] : ['feather']}>
            <Ruler
              spec={FEATHER}
              value={pose.feather}
              onChange={(feather, live) => setPose(shape.id, { ...pose, feather }, live)}
              onSettle={settle}
            />
            {shape.kind === 'rectangle' ? (
              <Ruler
                spec={ROUND}
                value={pose.round}
                onChange={(round, live) => setPose(shape.id, { ...pose, round }, live)}
                onSettle={settle}
              />
            ) : null}
          </RulerGroup>
        </>
      ) : (
        <Txt quiet className="px-3 py-2">
          No shape: the whole frame, as far as colour and lightness choose it.
        </Txt>
      )}
      {adding ? (
        <Sheet title="Add a shape" onClose={() => setAdding(false)}>
          {(['ellipse', 'rectangle', 'path', 'gradient'] as const).map((kind) => (
            <Tool
              key={kind}
              label={SHAPE_TITLES[kind]}
              short={SHAPE_TITLES[kind]}
              icon={ShapeIcon[kind]}
              on={false}
              onPress={() => add(kind)}
            />
          ))}
        </Sheet>
      ) : null}
    </>
  );
}

/** Actions for the selected point of a path. */
function PointTools({ shape }: { shape: Shape }) {
  const point = useRegionTool((s) => s.point);
  const seconds = usePlayheadSeconds();
  const pose = poseAt(shape, seconds);
  const at = point === null ? undefined : pose.points?.[point];
  if (shape.kind !== 'path' || !pose.points) return null;
  if (!at)
    return (
      <Txt size="sm" quiet>
        tap the outline for a point
      </Txt>
    );
  return (
    <>
      <Tool
        label={at.sharp ? 'Make the point round' : 'Make the point sharp'}
        short={at.sharp ? 'sharp' : 'round'}
        icon={ShapeIcon.path}
        on={at.sharp}
        onPress={() =>
          setPose(shape.id, {
            ...pose,
            points: pose.points!.map((p, i) => (i === point ? { ...p, sharp: !p.sharp } : p)),
          })
        }
      />
      {pose.points.length > 3 ? (
        <Tool
          label="Remove the point"
          short="point"
          icon={Trash}
          on={false}
          onPress={() => {
            setPose(shape.id, { ...pose, points: pose.points!.filter((_, i) => i !== point) });
            useRegionTool.setState({ point: null });
          }}
        />
      ) : null}
    </>
  );
}
