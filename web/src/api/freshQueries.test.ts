import { QueryObserver } from "@tanstack/react-query";
import { describe, expect, it, vi } from "vitest";
import { FreshQueries } from "./freshQueries";

describe("questions and what changes meanwhile", () => {
  it("asks again where the first answer was still under way", async () => {
    const queries = new FreshQueries();
    const answers: ((answer: string) => void)[] = [];
    const ask = () => new Promise<string>((answer) => answers.push(answer));
    const observer = new QueryObserver(queries, { queryKey: ["figures", 1], queryFn: ask, retry: false });
    const stop = observer.subscribe(() => {});
    expect(answers).toHaveLength(1);
    const asked = queries.invalidateQueries({ queryKey: ["figures"] });
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    answers[0]?.("before the change");
    answers[1]?.("after the change");
    await asked;
    expect(observer.getCurrentResult().data).toBe("after the change");
    stop();
  });

  it("waits for an answer that is under way where it is told to, however often it is asked", async () => {
    const queries = new FreshQueries();
    const answers: ((answer: string) => void)[] = [];
    const ask = () => new Promise<string>((answer) => answers.push(answer));
    const observer = new QueryObserver(queries, { queryKey: ["who"], queryFn: ask, retry: false });
    const stop = observer.subscribe(() => {});
    const asked = [1, 2, 3].map(() => queries.invalidateQueries({ queryKey: ["who"] }, { cancelRefetch: false }));
    expect(answers).toHaveLength(1);
    answers[0]?.("nobody");
    await Promise.all(asked);
    expect(observer.getCurrentResult().data).toBe("nobody");
    stop();
  });

  it("leaves questions alone that the change does not touch", async () => {
    const queries = new FreshQueries();
    const ask = vi.fn(() => Promise.resolve("told"));
    const observer = new QueryObserver(queries, { queryKey: ["others"], queryFn: ask });
    const stop = observer.subscribe(() => {});
    await queries.invalidateQueries({ queryKey: ["figures"] });
    await vi.waitFor(() => expect(observer.getCurrentResult().data).toBe("told"));
    expect(ask).toHaveBeenCalledTimes(1);
    stop();
  });
});
