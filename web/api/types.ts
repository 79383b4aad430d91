export type {
  Job,
  Media,
  SetupSummary,
  StoredSetup,
  Take,
  TakeSummary,
  TrackMeasures,
} from '../../core/records.ts';
