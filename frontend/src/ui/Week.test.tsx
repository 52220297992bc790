// @vitest-environment jsdom
import { fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";

import { clock, noWeek, WeekField, type Week } from "./Week";

it("takes hours day by day, more than once a day, and lets them go", () => {
  let now: Week = noWeek();
  function Held() {
    const [week, setWeek] = useState(now);
    return <WeekField label="Open" value={week} onChange={(w) => setWeek((now = w))} />;
  }
  render(<Held />);
  fireEvent.click(screen.getByRole("button", { name: "Hours on Tuesday" }));
  expect(now[1]).toEqual([[1020, 1080]]);
  fireEvent.change(screen.getByLabelText("Tuesday from"), { target: { value: "16:30" } });
  fireEvent.change(screen.getByLabelText("Tuesday to"), { target: { value: "18:15" } });
  expect(now[1]).toEqual([[990, 1095]]);
  fireEvent.click(screen.getByRole("button", { name: "Hours on Tuesday" }));
  expect(now[1]).toEqual([[990, 1095], [1155, 1215]]); // prettier-ignore
  fireEvent.click(screen.getByRole("button", { name: `Tuesday: not ${clock(990)} to ${clock(1095)}` }));
  expect(now[1]).toEqual([[1155, 1215]]);
});
