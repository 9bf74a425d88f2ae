import { act, render, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { useFocusKept } from "./useFocusKept";

function Page() {
  const [there, setThere] = useState(true);
  useFocusKept();
  return (
    <main>
      <section aria-label="around">
        <p>
          {there && (
            <button type="button" onClick={() => setThere(false)}>
              Go
            </button>
          )}
        </p>
      </section>
    </main>
  );
}

it("keeps the focus near what went away", async () => {
  render(<Page />);
  const button = screen.getByRole("button");
  act(() => button.focus());
  act(() => button.click());
  await waitFor(() => expect(document.activeElement?.tagName).toBe("P"));
  expect(document.activeElement?.closest("section")).toBeTruthy();
});
