/** What `AskNewest` needs of a worker. */
export type Asked = Pick<Worker, 'postMessage' | 'terminate' | 'onmessage' | 'onerror'>;

/**
 * Asks a worker one thing at a time. While it is busy only the newest question waits, so that a fast hand does not
 * make it answer every question on the way. A worker that fails is made anew.
 */
export class AskNewest<Question, Answer> {
  private worker: Asked;
  private busyWith: Question | null = null;
  private waiting: Question | null = null;
  private readonly make: () => Asked;
  private readonly onAnswer: (question: Question, answer: Answer) => void;
  private readonly onFailure: (question: Question) => void;

  constructor(
    make: () => Asked,
    onAnswer: (question: Question, answer: Answer) => void,
    onFailure: (question: Question) => void,
  ) {
    this.make = make;
    this.onAnswer = onAnswer;
    this.onFailure = onFailure;
    this.worker = this.started();
  }

  /** Asks at once, or after what is asked now; then nothing else waits. */
  ask(question: Question): void {
    if (this.busyWith !== null) {
      this.waiting = question;
      return;
    }
    this.busyWith = question;
    this.worker.postMessage(question);
  }

  /** Ends the worker. */
  end(): void {
    this.worker.terminate();
  }

  private started(): Asked {
    const worker = this.make();
    worker.onmessage = ({ data }: MessageEvent<Answer>) => {
      this.next((question) => this.onAnswer(question, data));
    };
    worker.onerror = () => {
      worker.terminate();
      this.worker = this.started();
      this.next((question) => this.onFailure(question));
    };
    return worker;
  }

  private next(tell: (question: Question) => void): void {
    const asked = this.busyWith;
    this.busyWith = null;
    const { waiting } = this;
    this.waiting = null;
    if (waiting !== null) this.ask(waiting);
    if (asked !== null) tell(asked);
  }
}
