import { Component, type ReactNode } from 'react';

interface FailedState {
  message: string | null;
}

/** Catches what no screen handled: says so, keeps the page's address, and offers to try again. */
export class Failed extends Component<{ children: ReactNode }, FailedState> {
  override state: FailedState = { message: null };

  static getDerivedStateFromError(error: unknown): FailedState {
    return { message: error instanceof Error ? error.message : String(error) };
  }

  override render() {
    if (this.state.message === null) return this.props.children;
    return (
      <main style={{ maxWidth: 560, margin: '80px auto', padding: 20 }}>
        <h1>Something broke here</h1>
        <p>{this.state.message}</p>
        <p>What was shown as saved is saved.</p>
        <button type="button" onClick={() => window.location.reload()}>
          Load the page again
        </button>
      </main>
    );
  }
}
