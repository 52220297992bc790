// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering, show } from "../testing";
import { useGhost } from "./useGhost";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const bench = benchOf({});
function Part({ unit, go }: { unit?: number; go: (frame: number) => void }) {
  const mended = useGhost(bench, unit, go);
  return (
    <>
      <button type="button" onClick={mended.toggle}>
        mend
      </button>
      <p>{mended.words}</p>
      <p>{mended.shown ? `drawn in ${mended.shown.row}` : "not drawn"}</p>
    </>
  );
}

it("asks for the mended figure of a unit, goes to its frame once, and takes it away again", async () => {
  const go = vi.fn();
  answering({ "GET /api/runs/{run}/ghost": { row: 42, joints: {}, says: "Drawn with tilt at 12°.", lacking: "" } });
  show(<Part unit={2} go={go} />);
  expect(screen.getByText("not drawn")).toBeTruthy();
  fireEvent.click(screen.getByText("mend"));
  expect(await screen.findByText("drawn in 42")).toBeTruthy();
  expect(screen.getByText("Drawn with tilt at 12°.")).toBeTruthy();
  await waitFor(() => expect(go).toHaveBeenCalledTimes(1));
  expect(go).toHaveBeenCalledWith(42);
  fireEvent.click(screen.getByText("mend"));
  expect(screen.getByText("not drawn")).toBeTruthy();
});

it("says why it is not drawn, and goes nowhere", async () => {
  const go = vi.fn();
  answering({ "GET /api/runs/{run}/ghost": { row: 3, joints: {}, says: "", lacking: "There is nothing to mend." } });
  show(<Part unit={2} go={go} />);
  fireEvent.click(screen.getByText("mend"));
  expect(await screen.findByText("There is nothing to mend.")).toBeTruthy();
  expect(screen.getByText("not drawn")).toBeTruthy();
  expect(go).not.toHaveBeenCalled();
});
