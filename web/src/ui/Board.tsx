import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  useReactTable,
  type VisibilityState,
} from "@tanstack/react-table";
import { useMemo, type ReactNode } from "react";
import { useWidth } from "./useWidth";

export interface Column<T> {
  id: string;
  head: ReactNode;
  cell: (row: T, index: number) => ReactNode;
  /** The board's width in pixels below which the column folds under the row's text. */
  from?: number;
  /** How it is called when it is folded under. */
  name?: string;
  left?: boolean;
  width?: number;
}

interface Props<T> {
  label: string;
  rows: readonly T[];
  keyOf: (row: T) => string;
  columns: readonly Column<T>[];
  /** Its picture and its words: what a row is. */
  picture?: (row: T, index: number) => string;
  text: (row: T, index: number) => ReactNode;
  textHead: ReactNode;
  shown?: number;
  onShown?: (index: number) => void;
}

/**
 * Alternatives beside each other. What has no room as a column is told under the row's words, so
 * that nothing is squeezed.
 */
export function Board<T>({
  label,
  rows,
  keyOf,
  columns,
  picture,
  text,
  textHead,
  shown,
  onShown,
}: Props<T>) {
  const { ref, width } = useWidth<HTMLDivElement>(700);
  const visible: VisibilityState = Object.fromEntries(
    columns.map((c) => [c.id, width >= (c.from ?? 0)]),
  );
  const made = useMemo(() => {
    const helper = createColumnHelper<T>();
    return columns.map((c) =>
      helper.display({
        id: c.id,
        header: () => c.head,
        cell: ({ row }) => c.cell(row.original, row.index),
      }),
    );
  }, [columns]);
  // the table's own functions are not memoised, and need not be
  // eslint-disable-next-line react-hooks/incompatible-library
  const table = useReactTable({
    data: rows as T[],
    columns: made,
    getCoreRowModel: getCoreRowModel(),
    getRowId: (row) => keyOf(row),
    state: { columnVisibility: visible },
  });
  const held = new Map(columns.map((c) => [c.id, c]));
  const folded = columns.filter((c) => !visible[c.id] && c.name);
  const size = width > 1000 ? 92 : 60;
  return (
    <div ref={ref}>
      <table className="board" aria-label={label}>
        <thead>
          <tr>
            <th colSpan={picture ? 2 : 1}>{textHead}</th>
            {table.getFlatHeaders().map((h) => (
              <th key={h.id} className={held.get(h.id)?.left ? "board-left" : ""}>
                {flexRender(h.column.columnDef.header, h.getContext())}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.getRowModel().rows.map((row) => (
            <tr
              key={row.id}
              aria-selected={onShown ? row.index === shown : undefined}
              tabIndex={onShown ? 0 : undefined}
              onClick={() => onShown?.(row.index)}
              onFocus={() => row.index !== shown && onShown?.(row.index)}
            >
              {picture && (
                <td style={{ width: size + 12 }}>
                  <img
                    src={picture(row.original, row.index)}
                    alt=""
                    width={size}
                    height={size}
                    style={{ minWidth: size, height: size }}
                  />
                </td>
              )}
              <td className="board-left board-text">
                {text(row.original, row.index)}
                {folded.length > 0 && (
                  <span className="mt-0.5 flex flex-wrap gap-x-3 text-[12.5px] text-faded">
                    {folded
                      .map((c) => ({ c, said: c.cell(row.original, row.index) }))
                      .filter(({ said }) => said !== "")
                      .map(({ c, said }) => (
                        <span key={c.id} className="inline-flex items-baseline gap-1">
                          {c.name} <span className="text-ink">{said}</span>
                        </span>
                      ))}
                  </span>
                )}
              </td>
              {row.getVisibleCells().map((cell) => (
                <td
                  key={cell.id}
                  className={held.get(cell.column.id)?.left ? "board-left" : ""}
                  style={{ width: held.get(cell.column.id)?.width }}
                >
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
