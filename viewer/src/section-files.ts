// The files of sections: each is a script that hands on its text, since a page that is read from
// disk can fetch nothing else.
declare global {
  interface Window {
    // The texts of sections that have come, by their places.
    ochreSections?: Record<string, string>;
  }
}

export function byScript({ place, file }: { place: string; file: string }): Promise<string> {
  return new Promise((done, fail) => {
    const script = document.createElement("script");
    script.src = file;
    script.onload = () => {
      const text = window.ochreSections?.[place];
      script.remove();
      if (text === undefined) return fail(new Error(file));
      delete window.ochreSections?.[place];
      done(text);
    };
    script.onerror = () => {
      script.remove();
      fail(new Error(file));
    };
    document.head.append(script);
  });
}
