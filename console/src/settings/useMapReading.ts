import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";

/** The map as the service read it, asked for again until its check is done. */
export function useMapReading() {
  return useQuery({
    queryKey: ["map-reading"],
    queryFn: api.mapReading,
    staleTime: Number.POSITIVE_INFINITY,
    refetchInterval: (query) => (query.state.data?.findings === null ? 1000 : false),
  });
}
