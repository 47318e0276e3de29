import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";

export type Proposal = Schemas["ProposedActOut"];
export type Policy = Schemas["PolicyOut"];
export type Wanted = Required<Schemas["ProposalsAsked"]>;

const PAGE = 50;

/** What waits, was sent back, or ended, page by page. */
export function useProposals(slug: string, wanted: Wanted) {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "proposals", JSON.stringify(wanted)),
    placeholderData: keepWithin(slug),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/proposals", {
          params: { path: { slug }, query: { ...wanted, after: pageParam, limit: PAGE } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page: Schemas["ProposalsOut"]) => page.behind ?? undefined,
  });
}

/** What a yes, or a no, changes: nearly everything of the register, and what waits in all of them. */
function useRefresh(slug: string) {
  const queries = useQueryClient();
  return () => {
    void queries.invalidateQueries({ queryKey: keys.register(slug) });
    void queries.invalidateQueries({ queryKey: keys.registers });
  };
}

const about = (proposal: Proposal) => ({ params: { path: { proposal_id: proposal.id } } });

export function useSign(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (proposal: Proposal) =>
      unwrap(client.POST("/api/proposals/{proposal_id}/sign", { ...about(proposal), body: { remark: "" } })),
    onSettled: refresh,
  });
}

export function useSendBack(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: ({ proposal, ...body }: Schemas["SendBackIn"] & { proposal: Proposal }) =>
      unwrap(client.POST("/api/proposals/{proposal_id}/send-back", { ...about(proposal), body })),
    onSettled: refresh,
  });
}

/** Withdraw what one proposed, or let go what was sent back. */
export function useWithdrawProposal(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (proposal: Proposal) => unwrap(client.POST("/api/proposals/{proposal_id}/withdraw", about(proposal))),
    onSettled: refresh,
  });
}

export function useProposeAgain(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (proposal: Proposal) => unwrap(client.POST("/api/proposals/{proposal_id}/again", about(proposal))),
    onSettled: refresh,
  });
}

/** The proposals of a filter that would be signed in one step, with some drawn at random. */
export function useMany(slug: string, wanted: Wanted) {
  return useQuery({
    queryKey: keys.of(slug, "proposals", "many", JSON.stringify(wanted)),
    staleTime: 0,
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/proposals/many", {
          params: { path: { slug }, query: { ...wanted, seed: Date.now() % 10_000 } },
        }),
      ),
  });
}

export function useSignMany(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (body: Schemas["SignManyIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/proposals/many", { params: { path: { slug } }, body })),
    onSettled: refresh,
  });
}

export function usePolicy(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "policy"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/sign-off/policy", { params: { path: { slug } } })),
  });
}

export function useSetPolicy(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (body: Schemas["PolicyIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/sign-off/policy", { params: { path: { slug } }, body })),
    onSettled: refresh,
  });
}
