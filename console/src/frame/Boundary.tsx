// Catches what goes wrong in a page while it is drawn, until one goes elsewhere.
import { Component, type ReactNode } from "react";

type Props = {
  at: string; // where one is: at another place it is tried anew
  instead: (error: unknown) => ReactNode;
  children: ReactNode;
};

type State = { at: string; failed?: { error: unknown } };

export class Boundary extends Component<Props, State> {
  state: State = { at: this.props.at };

  static getDerivedStateFromError(error: unknown) {
    return { failed: { error } };
  }

  static getDerivedStateFromProps(props: Props, state: State): State | null {
    return props.at === state.at ? null : { at: props.at, failed: undefined };
  }

  render() {
    return this.state.failed ? this.props.instead(this.state.failed.error) : this.props.children;
  }
}
