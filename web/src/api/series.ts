import { useQuery } from "@tanstack/react-query";

/** Every reading of an attempt as the server sends it; asked for again when something was booked. */
export function useSeriesBytes(attempt: string | undefined) {
  return useQuery({
    queryKey: ["get", "/api/v1/attempts/{attempt}/series", attempt],
    enabled: Boolean(attempt),
    staleTime: 30_000,
    queryFn: async () => {
      const answer = await fetch(new URL(`/api/v1/attempts/${attempt}/series`, location.origin));
      if (!answer.ok) throw await answer.json();
      return answer.arrayBuffer();
    },
  });
}
