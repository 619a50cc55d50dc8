/** What became of everything in the file that was brought in last, until the person has read it. */
import type { Upload } from '../api/client';

export type ImportReport = Upload['report'];

class LastImport {
  name = $state('');
  report = $state<ImportReport | null>(null);

  show(name: string, report: ImportReport): void {
    this.name = name;
    this.report = report;
  }

  /** Several files at once: each line says of which it is. */
  showAll(files: { name: string; report: ImportReport }[], changed: string[]): void {
    const join = (of: keyof ImportReport) =>
      files.flatMap((each) =>
        each.report[of].map((line) => (files.length > 1 ? `${each.name}: ${line}` : line)),
      );
    this.show(files.map((each) => each.name).join(', '), {
      kept: join('kept'),
      made: join('made'),
      changed: [...join('changed'), ...changed],
      dropped: join('dropped'),
    });
  }

  close(): void {
    this.report = null;
  }
}

export const lastImport = new LastImport();
