/** What the person is told: short notices that go by themselves, and errors that stay until closed. */
export type Notice = {
  id: number;
  kind: 'info' | 'success' | 'warning' | 'error';
  title: string;
  detail: string;
  /** What one click does about it. */
  action: { label: string; run: () => void } | null;
};

class Notices {
  list = $state<Notice[]>([]);
  private next = 1;

  say(kind: Notice['kind'], title: string, detail = '', action: Notice['action'] = null): void {
    const same = this.list.find((notice) => notice.title === title && notice.detail === detail);
    if (same && !action) return;
    this.list = [...this.list.slice(-3), { id: this.next++, kind, title, detail, action }];
  }

  close(id: number): void {
    this.list = this.list.filter((notice) => notice.id !== id);
  }
}

export const notices = new Notices();
