import type { NextFunction, Response } from 'express';

/** Sends a file of a folder (with range requests); only an error goes on to the next handler. */
export function sendFile(response: Response, name: string, root: string, next: NextFunction): void {
  response.sendFile(name, { root, dotfiles: 'deny' }, (error) => {
    if (error) next(error);
  });
}
