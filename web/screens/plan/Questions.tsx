import { answered, answerTo, questionsFor } from '../../../core/plan/questions.ts';
import type { Hardware } from '../../../core/plan/room.ts';

/** The questions about how somebody works, one leading to the next, each with what comes of its answer. */
export function Questions({
  hardware,
  onChange,
}: {
  hardware: Hardware;
  onChange: (hardware: Hardware) => void;
}) {
  return (
    <ol>
      {questionsFor(hardware).map((question) => {
        const given = answerTo(question, hardware);
        return (
          <li key={question.id} className="border-b border-rule py-2">
            <fieldset className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
              <legend className="font-semibold">{question.asks}</legend>
              {question.answers.map((answer) => (
                <label key={answer.words} className="flex items-center gap-2">
                  <input
                    type="radio"
                    name={`question-${question.id}`}
                    checked={answer === given}
                    onChange={() => onChange(answered(hardware, answer))}
                  />
                  {answer.words}
                </label>
              ))}
              <p className="basis-full text-[13px] leading-snug text-soft">{given.comes}</p>
            </fieldset>
          </li>
        );
      })}
    </ol>
  );
}
