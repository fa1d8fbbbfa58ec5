import { Toast } from "radix-ui";
import { useView } from "../shell/view";

/** What has just happened, with a way back. */
export function Toasts() {
  const { toasts, drop } = useView();
  return (
    <Toast.Provider swipeDirection="right">
      {toasts.map((t) => (
        <Toast.Root
          key={t.id}
          type={t.bad ? "foreground" : "background"}
          duration={t.bad ? 12_000 : 6_000}
          onOpenChange={(open) => !open && drop(t.id)}
          role={t.bad ? "alert" : undefined}
          className={`flex items-start gap-3 border border-l-4 border-thread bg-paper px-4 py-2.5 ${t.bad ? "border-l-persimmon" : "border-l-moss"}`}
        >
          <div className="min-w-0 flex-1">
            <Toast.Title>{t.text}</Toast.Title>
            {t.remedy && (
              <Toast.Description className="text-[13px] text-faded">{t.remedy}</Toast.Description>
            )}
          </div>
          {t.action && (
            <Toast.Action
              altText={t.action.label}
              className="text-indigo underline"
              onClick={t.action.run}
            >
              {t.action.label}
            </Toast.Action>
          )}
          <Toast.Close aria-label="Close" className="text-faded">
            ×
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport
        label="Messages"
        className="fixed right-6 bottom-4 z-50 flex w-[360px] max-w-[92vw] flex-col gap-2"
      />
    </Toast.Provider>
  );
}
