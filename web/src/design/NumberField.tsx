import { VisuallyHidden } from '@mantine/core';
import { useId, useState, type KeyboardEvent } from 'react';

import type { Offer, Text } from '../api/types';
import classes from './NumberField.module.css';
import { tidy } from './quantity';
import type { Parsed } from './quantity';
import { Sentence } from './Sentence';
import { TermMark } from './TermMark';

export interface NumberFieldProps {
  label: string;
  /** Draws the label inside the box; otherwise it is for screen readers alone. */
  showLabel?: boolean;
  value: number | null;
  unit: string;
  format: (value: number) => string;
  parse: (text: string) => Parsed;
  /** What was typed and could not be read; it stays in the field until corrected. */
  unread?: string;
  onUnread: (text: string | null) => void;
  onChange: (value: number | null) => void;
  onLeave?: () => void;
  /** What the arrow keys add; Shift makes it ten times as much. */
  step: number;
  /** Why the value cannot stand, from the server. */
  problem?: Text | string;
  /** It is only still to be entered: said calmly. */
  isOpen?: boolean;
  /** Values the maker may have meant, to choose from; never taken unasked. */
  offers?: Offer[];
  /** Element that says `problem` instead of this field. */
  problemId?: string;
  /** Word of the glossary that the label is. */
  term?: string;
  /** Marks the one of several linked fields that leads. */
  leading?: boolean;
  inputRef?: (input: HTMLInputElement | null) => void;
  onKeyDown?: (event: KeyboardEvent<HTMLInputElement>) => void;
  testId?: string;
  /** What holds while nothing is entered. */
  placeholder?: string;
  /** What an emptied box stands for, shown once it is left; without it an emptied box is no number at all. */
  emptyIs?: number;
}

/** A number as text: it takes every way makers write one, and never throws away what was typed. */
export function NumberField(props: NumberFieldProps) {
  const { label, value, unit, format, parse, unread, problem, showLabel = false, leading, step, testId } = props;
  const { emptyIs, problemId, inputRef, onChange, onUnread, onLeave, onKeyDown: onOwnKeyDown } = props;
  const id = useId();
  const [typed, setTyped] = useState<{ text: string; value: number | null } | null>(null);
  /** What stood here when the field was entered: Escape restores it. */
  const [before, setBefore] = useState<number | null>(value);
  // What is being typed stands until it is left, or until the value changes by other means, such as undo.
  const stands = typed !== null && (unread === typed.text || (typed.value === value && parse(typed.text).ok));
  const shown = (stands ? typed.text : null) ?? unread ?? (value === null ? '' : format(value));
  const parsed = unread === undefined ? null : parse(unread);
  const message = parsed !== null && !parsed.ok ? parsed.message : problem;

  const send = (next: number | null) => {
    if (next !== value) onChange(next);
  };

  const read = (text: string) => {
    const result = parse(text);
    const meant = result.ok ? (result.value ?? emptyIs ?? null) : value;
    setTyped({ text, value: meant });
    if (result.ok) {
      if (unread !== undefined) onUnread(null);
      send(meant);
    } else {
      onUnread(text);
    }
  };

  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    onOwnKeyDown?.(event);
    if (event.defaultPrevented || event.altKey || event.ctrlKey || event.metaKey) return;
    if (event.key === 'Escape' && typed !== null) {
      event.preventDefault();
      event.stopPropagation();
      setTyped(null);
      if (unread !== undefined) onUnread(null);
      send(before);
      return;
    }
    const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (direction === undefined || value === null || unread !== undefined) return;
    event.preventDefault();
    setTyped(null);
    send(tidy(value + direction * step * (event.shiftKey ? 10 : 1)));
  };

  return (
    <div
      className={[
        classes.field,
        showLabel ? classes.stacked : '',
        message === undefined && problemId === undefined ? '' : props.isOpen && unread === undefined ? classes.open : classes.wrong,
        leading ? classes.leading : '',
      ].join(' ')}
    >
      <label className={classes.box}>
        {showLabel ? <span className={classes.label}>{label}</span> : <VisuallyHidden>{label}</VisuallyHidden>}
        <span className={classes.row}>
          <input
            ref={inputRef}
            className={classes.input}
            inputMode="decimal"
            autoComplete="off"
            spellCheck={false}
            value={shown}
            placeholder={props.placeholder ?? '–'}
            aria-invalid={(message !== undefined || problemId !== undefined) && (props.isOpen !== true || unread !== undefined)}
            aria-describedby={message === undefined ? problemId : `${id}-message`}
            data-testid={testId}
            onChange={(event) => read(event.currentTarget.value)}
            onFocus={(event) => {
              setBefore(value);
              event.currentTarget.select();
            }}
            onBlur={() => {
              setTyped(null);
              onLeave?.();
            }}
            onKeyDown={onKeyDown}
          />
          <span className={classes.unit} aria-hidden>
            {unit}
          </span>
        </span>
      </label>
      {props.term !== undefined && showLabel && (
        <span className={classes.term}>
          <TermMark term={props.term} />
        </span>
      )}
      {message !== undefined && (
        <div id={`${id}-message`} className={classes.message}>
          <Sentence>{message}</Sentence>
          {(props.offers ?? []).map((offer) => (
            <button
              key={offer.value}
              type="button"
              className={classes.offer}
              onClick={() => {
                setTyped(null);
                onUnread(null);
                onChange(offer.value);
              }}
            >
              Take <Sentence>{offer.label}</Sentence>
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
