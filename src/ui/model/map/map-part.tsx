'use client';

import type { RecordType } from '@/core/model';
import type { ModelView } from '@/core/api';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { MANY_TYPES } from './map-shape';
import { MapTools } from './map-tools';
import type { ModelMapProps } from './model-map';
import { useMap } from './use-map';

const ModelMap = dynamic(() => import('./model-map').then((module) => module.ModelMap), {
  ssr: false,
  loading: () => <Loading what="the map" />,
});

interface MapPartProps extends Pick<ModelMapProps, 'marked' | 'markedBoxes' | 'onSelect'> {
  readonly view: ModelView;
  /** The chosen type; `null` while there is none. */
  readonly type: RecordType | null;
}

/** The map with what finds a type on it, and says how much of it is shown. */
export function MapPart({ view, type, onSelect, ...marks }: MapPartProps) {
  const [isNear, setNear] = useState(view.types.length > MANY_TYPES);
  const [withFields, setFields] = useState(false);
  const [sought, setSought] = useState<ModelMapProps['sought']>(null);
  const near = isNear ? (type?.key ?? null) : null;
  const map = useMap(view.types, view.version, { near, withFields });
  return (
    <>
      <ProblemNotice error={map.error} />
      <MapTools
        {...{ isNear, withFields, onNear: setNear }}
        onFields={(next) => {
          setFields(next);
          // All boxes with their fields are too many to be read at once.
          setSought(next && type ? { id: type.key } : null);
        }}
        types={view.types}
        name={type?.name ?? null}
        onSeek={(key) => {
          onSelect(key);
          setSought({ id: key });
        }}
      />
      {map.data ? (
        <ModelMap
          {...{ ...marks, onSelect }}
          // One with its neighbours is seen as a whole.
          sought={near && !withFields ? null : sought}
          // What is laid out anew is seen as a whole again.
          key={`${view.version} ${withFields} ${map.isPlaceholderData ? 'before' : near}`}
          map={map.data}
          selected={type?.key ?? null}
        />
      ) : map.error ? null : (
        <Loading what="the map" />
      )}
    </>
  );
}
