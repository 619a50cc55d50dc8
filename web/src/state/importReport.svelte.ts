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

  close(): void {
    this.report = null;
  }
}

export const lastImport = new LastImport();
