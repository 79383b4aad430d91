import { Link } from 'react-router';
import { Blank, Button } from './controls.tsx';

/** What a screen shows that needs recordings, when no source has one. */
export function NoRecordings({ title, sourcesPath }: { title: string; sourcesPath: string }) {
  return (
    <Blank title={title}>
      <p>Give at least one source a recording: a minute of the game, of your voice, of the music.</p>
      <Link to={sourcesPath} className="text-water underline">
        To Sources
      </Link>
    </Blank>
  );
}

/** What it shows when they cannot be read or measured. */
export function Unreadable({ error, onAgain }: { error: Error; onAgain: () => void }) {
  return (
    <Blank title="The recordings cannot be read">
      <p>{error.message}</p>
      <Button onClick={onAgain}>Try again</Button>
    </Blank>
  );
}

/** What it shows while they are unpacked and measured. */
export function ReadingRecordings() {
  return (
    <Blank title="Reading the recordings …">
      <p className="text-soft">Every recording is unpacked and measured once; the next time is quick.</p>
    </Blank>
  );
}
