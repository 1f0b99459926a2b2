import { useState } from "react";

const KEY = "kestrel-feet";

/** Whether lengths are shown in feet and inches; the browser remembers it. */
export function useFeet(): [boolean, (feet: boolean) => void] {
  const [feet, setFeet] = useState(() => localStorage.getItem(KEY) === "1");
  return [
    feet,
    (next) => {
      localStorage.setItem(KEY, next ? "1" : "0");
      setFeet(next);
    },
  ];
}
