import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { retry } from "./api/queries";
import { App } from "./app";
import { applyTheme, savedTheme } from "./shell/theme";
import "./styles.css";

applyTheme(savedTheme());

const queries = new QueryClient({
  defaultOptions: {
    queries: { retry, retryDelay: 1500, staleTime: 60_000, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
