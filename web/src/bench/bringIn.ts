import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, need, problemOf, type Schemas } from "../api/client";
import { sendFile } from "../api/send";
import { useView } from "../shell/view";

interface Sending {
  name: string;
  share: number;
  stop: AbortController;
}

/** Files that come in together; those of a folder are a kit. */
export interface Batch {
  folder: string | null;
  files: File[];
}

/** A file with too many triangles, and how many. */
export interface Offer {
  file: File;
  what: string;
}

const ENDING = /\.(stl|obj|ply|3mf|glb|gltf|zip)$/i;

async function walk(entry: FileSystemEntry, found: File[]): Promise<void> {
  if (entry.isFile) {
    const file = () =>
      new Promise<File>((done, lost) => (entry as FileSystemFileEntry).file(done, lost));
    if (ENDING.test(entry.name)) found.push(await file());
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, lost) =>
      reader.readEntries(done, lost),
    );
    if (!some.length) return;
    for (const inner of some) await walk(inner, found);
  }
}

/** The files of a drop, each folder walked for what can be a figure. */
export async function dropped(transfer: DataTransfer): Promise<Batch[]> {
  const entries = [...transfer.items]
    .map((i) => i.webkitGetAsEntry())
    .filter((e): e is FileSystemEntry => !!e);
  const folders = entries.filter((e) => e.isDirectory);
  if (!folders.length) return [{ folder: null, files: [...transfer.files] }];
  const batches: Batch[] = [];
  for (const folder of folders) {
    const files: File[] = [];
    await walk(folder, files);
    batches.push({ folder: folder.name, files });
  }
  const single: File[] = [];
  for (const entry of entries) if (entry.isFile) await walk(entry, single);
  return single.length ? [...batches, { folder: null, files: single }] : batches;
}

const inWords = (folder: string) =>
  folder.replace(/[-_]+/g, " ").replace(/^./, (c) => c.toUpperCase());

/** Send one file at a time; `offer` is what to do with one that holds too many triangles. */
function useSending(offered: (file: File, what: string) => void) {
  const [sending, setSending] = useState<Sending | null>(null);
  const { fail } = useView();
  const client = useQueryClient();
  const send = async (file: File, thin: boolean): Promise<Schemas["Imported"] | null> => {
    const stop = new AbortController();
    setSending({ name: file.name, share: 0, stop });
    try {
      const made = await sendFile(
        file,
        (share) => setSending((s) => s && { ...s, share }),
        stop.signal,
        thin,
      );
      void client.invalidateQueries({ queryKey: ["figures"] });
      void client.invalidateQueries({ queryKey: ["jobs"] });
      return made;
    } catch (thrown) {
      const p = problemOf(thrown);
      if (p.code === "too-many-triangles") offered(file, p.message);
      else fail(p.of(file.name));
      return null;
    } finally {
      setSending(null);
    }
  };
  return { sending, send };
}

/** Bring files in one after the other; several of one folder become a kit. */
export function useBringIn() {
  const [offer, setOffer] = useState<Offer | null>(null);
  const { fail, say } = useView();
  const go = useNavigate();
  const client = useQueryClient();
  const { sending, send } = useSending((file, what) => setOffer({ file, what }));

  const toKit = async (folder: string, figures: number[]) => {
    try {
      const kit = await need(api.POST("/api/kits", { body: { name: inWords(folder), figures } }));
      void client.invalidateQueries({ queryKey: ["figures"] });
      return kit;
    } catch (thrown) {
      fail(thrown);
      return null;
    }
  };

  const bring = async (batches: Batch[], thin = false) => {
    const alone = batches.length === 1 && batches[0].files.length === 1;
    for (const { folder, files } of batches) {
      if (!files.length) {
        const text = `${folder ?? "The drop"} holds no figure's file.`;
        say({ text, remedy: "STL, OBJ, PLY, 3MF, glTF and ZIP are read.", bad: true });
      }
      const single: number[] = [];
      for (const file of files) {
        const made = await send(file, thin);
        if (!made) continue;
        if (!made.kit_id) single.push(made.figure_id);
        if (alone)
          return void go(made.kit_id ? `/kit/${made.kit_id}` : `/plan/${made.plan_id}/size`);
        say({
          text: `${file.name} is on the bench${made.parts > 1 ? `, ${made.parts} parts` : ""}.`,
        });
      }
      const kit = folder && single.length > 1 ? await toKit(folder, single) : null;
      if (kit && batches.length === 1) void go(`/kit/${kit}`);
    }
  };
  const takeThinner = () => {
    setOffer(null);
    if (offer) void bring([{ folder: null, files: [offer.file] }], true);
  };
  return { sending, bring, offer, takeThinner, leave: () => setOffer(null) };
}
