import type { Metadata } from "next";
import { cookies } from "next/headers";
import type { ReactNode } from "react";
import { Toaster } from "sonner";
import { frameData } from "@/server/frame-data";
import { ConfirmHost } from "@/ui/basic/confirm";
import { TipProvider } from "@/ui/basic/tip";
import { PageRefreshProvider } from "@/ui/basic/page-refresh";
import { FreshPage } from "@/ui/basic/read-ahead";
import { QueryProvider } from "@/ui/queries/query-provider";
import { AddressProvider } from "@/ui/frame/address";
import { GuideBar } from "@/ui/frame/guide-bar";
import { KeepsFocus } from "@/ui/frame/keeps-focus";
import { Listens } from "@/ui/frame/listens";
import { TopBar } from "@/ui/frame/top-bar";
import "./globals.css";
import "./print.css";

export const metadata: Metadata = {
  title: { default: "Ravlen", template: "%s · Ravlen" },
  description: "Training and batch scoring pipelines, where the data lives",
};
export const dynamic = "force-dynamic";

export default async function Layout({ children }: { readonly children: ReactNode }) {
  const theme = (await cookies()).get("ravlen-theme")?.value === "dark" ? "dark" : "light";
  const frame = await frameData();
  return (
    <html
      lang="en"
      data-theme={theme}
      data-demo-clock={frame.clock ? "" : undefined}
      suppressHydrationWarning
    >
      <body>
        <a
          href="#main"
          className="sr-only focus:not-sr-only focus:fixed focus:left-2 focus:top-2 focus:z-50 focus:bg-paper focus:p-2"
        >
          Skip to the page
        </a>
        <QueryProvider>
          <PageRefreshProvider>
            <TipProvider>
              <TopBar running={frame.running} clock={frame.clock} />
              {frame.guide && <GuideBar goal={frame.guide} />}
              <main id="main" tabIndex={-1} className="outline-none">
                <AddressProvider>
                  {children}
                  <Listens />
                  <FreshPage />
                  <KeepsFocus />
                </AddressProvider>
              </main>
            </TipProvider>
          </PageRefreshProvider>
        </QueryProvider>
        <ConfirmHost />
        <Toaster
          position="bottom-right"
          style={{ fontFamily: "var(--font-sans)" }}
          toastOptions={{
            duration: 7000,
            // Its own colour for what follows the message is made for a light ground.
            descriptionClassName: "text-faded!",
            style: {
              fontFamily: "inherit",
              fontSize: "0.875rem",
              background: "var(--paper)",
              color: "var(--ink)",
              border: "1px solid var(--ink)",
              borderRadius: 3,
            },
          }}
        />
      </body>
    </html>
  );
}
