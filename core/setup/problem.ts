/** A rule of the setup that does not hold: the field, as a path into the file, and what is to be done. */
export interface Problem {
  field: string;
  rule: string;
}
