"use client";
import { wishDemo } from "@/server/demo-actions";
import { ActButton } from "../basic/act";

/** Has the demo made in this installation. */
export function WishDemo() {
  return (
    <ActButton act={() => wishDemo()} busyLabel="Asking …">
      Open the demo
    </ActButton>
  );
}
