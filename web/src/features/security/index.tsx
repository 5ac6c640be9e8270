import { word } from "../../api/words";
import { useInfiniteQuery } from "@tanstack/react-query";
import { http, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { Button, Heading, HeadRow, Lead, Note, Page, Section, Wide } from "../../ui";

/** What concerns the security of the installation, the last first; for an administrator. */
export function SecurityLog() {
  const me = useMe();
  const pages = useInfiniteQuery({
    queryKey: ["security"],
    initialPageParam: undefined as number | undefined,
    queryFn: async ({ pageParam }) => {
      const { data, error } = await http.GET("/api/v1/security", { params: { query: { before: pageParam } } });
      if (!data) throw error;
      return data;
    },
    getNextPageParam: (page) => (page.more ? page.entries.at(-1)?.seq : undefined),
  });
  const when = new Intl.DateTimeFormat("sv-SE", { dateStyle: "short", timeStyle: "medium", timeZone: me.zone });
  const entries = pages.data?.pages.flatMap((p) => p.entries) ?? [];
  const broken = pages.data?.pages.find((p) => !p.whole);
  const first = pages.data?.pages[0];
  if (pages.error)
    return (
      <Page>
        <Heading>The security log is not shown.</Heading>
        <Note kind="stop">{sentence(pages.error)}</Note>
      </Page>
    );
  if (!first) return <Page>opening the log</Page>;
  return (
    <Page>
      <Heading>{broken ? "This log was tampered with." : first.sentence}</Heading>
      <Lead>
        Who signed in and who could not, what was refused, which accounts, keys and certificates changed, and what was taken out. Entries are only ever added, and each
        covers the one before it.
      </Lead>
      {broken ? <Note kind="stop">{broken.sentence}</Note> : null}
      <Section
        title="Last entries first"
        aside={
          <a href="/api/v1/security/log" download className="font-semibold text-water">
            Take out the whole log
          </a>
        }
      >
        <Wide label="Entries">
          <table className="w-full border-collapse text-sm">
            <HeadRow columns={["no.", `when (${me.zone})`, "account", "what", "of what", "from"]} />
            <tbody>
              {entries.map((e) => (
                <tr key={e.seq} className="border-b border-hair align-baseline" data-entry={e.what}>
                  <td className="num py-1 pr-4 text-soft">{e.seq}</td>
                  <td className="num pr-4 whitespace-nowrap">{when.format(new Date(e.at_us / 1000))}</td>
                  <td className="pr-4 font-semibold">
                    <bdi>{e.account}</bdi>
                  </td>
                  <td className={`pr-4 whitespace-nowrap ${["refused", "sign_in_refused"].includes(e.what) ? "font-semibold text-danger" : ""}`}>
                    {word("security", e.what)}
                  </td>
                  <td className="pr-4 break-all">
                    <bdi>{e.detail}</bdi>
                  </td>
                  <td className="num whitespace-nowrap text-soft">{e.address}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      </Section>
      {pages.hasNextPage ? (
        <div>
          <Button onClick={() => void pages.fetchNextPage()}>Earlier ones</Button>
        </div>
      ) : null}
      <p className="m-0 text-sm text-soft">
        A log that was taken out is checked with <code>zero-leak check-log</code>, on any machine and without the database.
      </p>
    </Page>
  );
}
