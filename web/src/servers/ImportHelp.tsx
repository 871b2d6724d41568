import { announce } from "../shared/announce";
import { Button } from "../kit/Button";
import { Drop } from "../kit/Drop";

/** The two lines that take a corrected file in, on the server itself. */
export function ImportHelp({ script }: { script: string[] }) {
  return (
    <Drop
      label="How a corrected file is taken in"
      align="end"
      className="w-[560px]"
      trigger={<Button>How to take one in</Button>}
    >
      <p>
        On the server, as an administrator, in the folder of the unpacked files. The file has to be
        called as the server is. What was there before is kept beside it.
      </p>
      <pre
        className="mt-2 overflow-x-auto rounded border border-line bg-paper p-2 font-mono text-xs"
        tabIndex={0}
      >
        {script.join("\n")}
      </pre>
      <Button
        className="mt-2"
        onClick={() => {
          void navigator.clipboard.writeText(script.join("\r\n")).then(
            () => announce("The two lines are copied."),
            () => announce("The browser does not allow copying. Select the lines instead."),
          );
        }}
      >
        Copy both lines
      </Button>
      <p className="mt-2 text-xs text-soft">
        They also lie beside the files, as import.cmd. Restart is not needed; new passwords are held
        against it at once.
      </p>
    </Drop>
  );
}
