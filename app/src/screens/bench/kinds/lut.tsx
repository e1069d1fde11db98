import { useState } from 'react';
import { View } from 'react-native';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { useBench } from '../../../state/bench';
import { Button } from '../../../ui/Button';
import { OpenerField } from '../../../ui/OpenerField';
import { StepShelf } from '../BenchShelf';
import type { ControlsProps, KindControls } from './types';

const paramsOf = (item: Pick<ShelfItem, 'id' | 'title'> | null): Record<string, unknown> => ({
  lut: item?.id ?? null,
  title: item?.title ?? '',
});

/** Chooses the table of a LUT step from the shelf. */
function LutChoice({ id, params }: ControlsProps) {
  const [open, setOpen] = useState(false);
  const chosen = params.lut as string | null;
  return (
    <View className="h-[48px] justify-center px-2">
      <OpenerField
        title="Table"
        value={chosen === null ? 'none chosen' : String(params.title)}
        onPress={() => setOpen(true)}
      />
      {open ? (
        <StepShelf
          title="Table"
          id={id}
          kind="lut"
          inUse={(item) => item.id === chosen}
          paramsOf={paramsOf}
          onClose={() => setOpen(false)}
        >
          {chosen === null ? null : (
            <Button
              title="None"
              onPress={() => {
                useBench.getState().setParams(id, paramsOf(null));
                setOpen(false);
              }}
            />
          )}
        </StepShelf>
      ) : null}
    </View>
  );
}

export const lutControls: KindControls = { Head: LutChoice };
