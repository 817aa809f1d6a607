import { Component, type ErrorInfo, type ReactNode } from 'react';
import { Button } from './Button';
import { Notice } from './Notice';

/**
 * Keeps a fault of one part of a screen to that part: it says what happened and offers to try again; the rest, and what
 * was typed there, stays. `at` names what is shown: a new one begins anew.
 */
export class Boundary extends Component<
  { at: string; what: string; children: ReactNode },
  { fault: Error | null; at: string }
> {
  override state: { fault: Error | null; at: string } = { fault: null, at: this.props.at };

  static getDerivedStateFromError(fault: Error): { fault: Error } {
    return { fault };
  }

  static getDerivedStateFromProps(props: { at: string }, state: { at: string }): { fault: null; at: string } | null {
    return props.at === state.at ? null : { fault: null, at: props.at };
  }

  override componentDidCatch(_error: Error, _info: ErrorInfo): void {
    // The browser's console has it; nothing is sent anywhere.
  }

  override render(): ReactNode {
    if (this.state.fault === null) return this.props.children;
    return (
      <div className="p-4">
        <Notice
          kind="fault"
          action={
            <Button small onClick={() => this.setState({ fault: null })}>
              Show it again
            </Button>
          }
        >
          {this.props.what} can't be shown: something in it went wrong ({this.state.fault.name}). Nothing was changed,
          and what is beside it still works.
        </Notice>
      </div>
    );
  }
}
