import type { CSSProperties, ReactNode } from "react";

/** A column of a table. */
export interface Column<Row> {
  /** What stands above it; a column whose head says nothing to the eye names itself in `said`. */
  head?: ReactNode;
  /** The head as screen readers say it, where nothing is shown. */
  said?: string;
  /** Numbers are on the right; what is short is never broken. */
  kind?: "number" | "short" | "muted" | undefined;
  /** Whether its cells are the heads of their rows. */
  isRowHead?: boolean;
  width?: CSSProperties["width"];
  /** What the head explains under the pointer. */
  title?: string;
  /** The class of its cells, and of its head. */
  className?: string;
  cell: (row: Row, at: number) => ReactNode;
}

interface Props<Row> {
  columns: Column<Row>[];
  rows: readonly Row[];
  keyOf: (row: Row, at: number) => string | number;
  label?: string;
  labelledBy?: string;
  isBusy?: boolean;
  className?: string;
  /** The class of a row. */
  mark?: (row: Row, at: number) => string | undefined;
  /** Rows of another shape, after the others. */
  children?: ReactNode;
}

const joined = (...names: (string | undefined)[]) => names.filter(Boolean).join(" ") || undefined;

/** Rows of one kind below one another. Without any head no row of heads is drawn. */
export function Table<Row>(props: Props<Row>) {
  const { columns, rows } = props;
  const hasHeads = columns.some((column) => column.head !== undefined || column.said);
  return (
    <table
      className={joined("rows", props.className)}
      aria-label={props.label}
      aria-labelledby={props.labelledBy}
      aria-busy={props.isBusy}
    >
      {hasHeads && (
        <thead>
          <tr>
            {columns.map(({ head, said, kind, width, title, className }, at) => (
              <th
                key={at}
                scope="col"
                className={joined(kind === "number" ? kind : undefined, className)}
                style={width === undefined ? undefined : { width }}
                title={title}
              >
                {said ? <span className="visually-hidden">{said}</span> : head}
              </th>
            ))}
          </tr>
        </thead>
      )}
      <tbody>
        {rows.map((row, at) => (
          <tr key={props.keyOf(row, at)} className={props.mark?.(row, at)}>
            {columns.map(({ kind, isRowHead, className, cell }, place) =>
              isRowHead ? (
                <th key={place} scope="row">
                  {cell(row, at)}
                </th>
              ) : (
                <td key={place} className={joined(kind, className)}>
                  {cell(row, at)}
                </td>
              ),
            )}
          </tr>
        ))}
        {props.children}
      </tbody>
    </table>
  );
}
