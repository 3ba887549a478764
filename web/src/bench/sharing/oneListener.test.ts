import { OneListener, type Channel, type Message } from './oneListener';

jest.useFakeTimers();

/** Pages of one browser: what one says all others hear. */
class Browser {
  private readonly channels = new Set<Channel<number>>();
  /** Pages that have a connection now. */
  connections = 0;
  tellAll: ((value: number) => void)[] = [];

  page(chance: number): { readonly listener: OneListener<number>; readonly heard: number[] } {
    const heard: number[] = [];
    const channel: Channel<number> = {
      onmessage: null,
      postMessage: (message: Message<number>) => {
        for (const each of this.channels) if (each !== channel) each.onmessage?.({ data: message } as MessageEvent<Message<number>>);
      },
      close: () => this.channels.delete(channel),
    };
    this.channels.add(channel);
    const listener = new OneListener<number>({
      channel,
      chance: () => chance,
      hear: (value) => void heard.push(value),
      listen: (tell, signal) => {
        this.connections++;
        this.tellAll.push(tell);
        return new Promise((resolve) =>
          signal.addEventListener('abort', () => {
            this.connections--;
            this.tellAll = this.tellAll.filter((each) => each !== tell);
            resolve();
          }),
        );
      },
    });
    listener.start();
    return { listener, heard };
  }

  /** The server says something on every connection. */
  says(value: number): void {
    for (const tell of [...this.tellAll]) tell(value);
  }
}

test('of three pages one listens, and all hear; a new one hears at once what was told last', () => {
  const browser = new Browser();
  const [first, second] = [browser.page(0.1), browser.page(0.6)];
  jest.advanceTimersByTime(1_000);
  browser.says(7);
  expect([browser.connections, first.heard, second.heard]).toEqual([1, [7], [7]]);
  const third = browser.page(0.9);
  expect(third.heard).toEqual([7]);
  jest.advanceTimersByTime(10_000);
  browser.says(8);
  expect([browser.connections, third.heard, second.heard]).toEqual([1, [7, 8], [7, 8]]);
});

test('when the one that listens goes, another does soon; when it falls silent, after a while', () => {
  const browser = new Browser();
  const [first, second] = [browser.page(0.1), browser.page(0.6)];
  jest.advanceTimersByTime(1_000);
  expect(first.listener.listens).toBe(true);
  first.listener.stop();
  expect(browser.connections).toBe(0);
  jest.advanceTimersByTime(300);
  expect(browser.connections).toBe(1);
  browser.says(3);
  expect(second.heard).toEqual([3]);
});

test('two that begin at once: the later one goes on, and nothing is heard twice', () => {
  const browser = new Browser();
  const [first, second] = [browser.page(0.5), browser.page(0.5)];
  jest.advanceTimersByTime(5_000);
  expect([first.listener.listens, second.listener.listens].filter(Boolean).length).toBe(1);
  browser.says(4);
  expect([browser.connections, first.heard, second.heard]).toEqual([1, [4], [4]]);
});
