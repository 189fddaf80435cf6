/** The record of a run, as the core's classes give it: the types are made from the API's description. */

import type { components } from '../api/schema'

type Schemas = components['schemas']
type Row = Schemas['FindingRecord']['values'][number]
type FieldOf<T> = T extends unknown ? keyof T : never
type Of<T, K extends PropertyKey> = T extends { [P in K]?: infer V } ? V : never

export type Evidence = Schemas['FindingRecord']['evidence']

/** A row of whatever shape: which fields it has, the shape of its finding says. */
export type FoundValue = { [K in FieldOf<Row>]?: Of<Row, K> }
export type Finding = Omit<Schemas['FindingRecord'], 'values'> & { values: FoundValue[] }

export type FitRow = Schemas['FitRow']
export type FitParameter = Schemas['ParameterRow']
/** A small picture of the function near a place. */
export type Seen = Schemas['CloseUp']

/** A drawn thing as the stage knows it. */
export type ShownSeries = Schemas['SeriesRecord']
/** Something that can be pointed at: left, top, width, height in px of the sheet. */
export type ShownBox = Schemas['BoxRecord']
export type Panel = Schemas['PanelRecord']
export type FigureRecord = Schemas['FigureRecord']

export type Edit = Schemas['EditRecord']
export type Fix = Schemas['FixRecord']
export type Message = Schemas['MessageRecord']
export type Reading = Schemas['ReadingRecord']

/** A value as the names sheet and the walk show it. */
export type SeenValue = Omit<Schemas['SeenName'], 'name' | 'depth'>
export type SeenName = Schemas['SeenName']
export type WalkStep = Schemas['WalkStep']
export type Trace = Schemas['TraceRecord']

export type RunRecord = Omit<Schemas['RunRecord'], 'findings'> & { findings: Finding[] }

/** What is told of a run while it goes on. */
export type RunEvent =
    | Schemas['QueuedEvent']
    | Schemas['ProgressEvent']
    | (Omit<Schemas['FindingEvent'], 'finding'> & { finding: Finding })
    | Schemas['FigureEvent']
    | Schemas['MessageEvent']
    | Schemas['NamesEvent']
    | (Omit<Schemas['DoneEvent'], 'record'> & { record: RunRecord })
    | Schemas['FailedEvent']
