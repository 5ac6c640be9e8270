/** The room of rows that are not drawn. */
export function Gap({ height, columns }: { height: number; columns: number }) {
  return height > 0 ? (
    <tr>
      <td colSpan={columns} style={{ height, padding: 0 }} />
    </tr>
  ) : null;
}
