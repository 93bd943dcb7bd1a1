import { createContext, use, useCallback, useEffect, useMemo, useState, type ReactNode } from 'react';

/** Something the command palette and the shortcuts sheet offer. */
export interface Command {
  id: string;
  group: string;
  label: string;
  description?: string;
  /** As Mantine's useHotkeys writes it, for example `mod+Z`. */
  keys?: string;
  /** Left out for what only makes sense where the cursor is: the shortcuts sheet names it, the palette does not. */
  run?: () => void;
}

type Register = (owner: string, commands: Command[]) => void;

// Two contexts: a screen that registers must not be drawn anew because something was registered.
const RegisterContext = createContext<Register | null>(null);
const CommandContext = createContext<Command[]>([]);

export function CommandProvider({ children }: { children: ReactNode }) {
  const [byOwner, setByOwner] = useState<Record<string, Command[]>>({});
  const register = useCallback<Register>((owner, commands) => {
    setByOwner((before) => ({ ...before, [owner]: commands }));
  }, []);
  const commands = useMemo(() => Object.values(byOwner).flat(), [byOwner]);
  return (
    <RegisterContext value={register}>
      <CommandContext value={commands}>{children}</CommandContext>
    </RegisterContext>
  );
}

/** Every command on offer now. */
export function useOffered(): Command[] {
  return use(CommandContext);
}

/** Offer `commands` while the calling screen is shown. They must be memoised. */
export function useCommands(owner: string, commands: Command[]): void {
  const register = use(RegisterContext);
  useEffect(() => {
    register?.(owner, commands);
    return () => register?.(owner, []);
  }, [register, owner, commands]);
}

/** `mod+shift+Z` as the maker's keyboard shows it. */
export function keyCaps(keys: string): string[] {
  const names: Record<string, string> = { mod: 'Ctrl', shift: 'Shift', alt: 'Alt', ArrowUp: '↑', ArrowDown: '↓' };
  return keys.split('+').map((key) => names[key] ?? key);
}
