import { Command } from "commander";
import { errorText } from "@/runs/failure";
import { addBenchCommand } from "./commands/bench";
import { addDataCommands } from "./commands/data";
import { addFileCommands } from "./commands/files";
import { addImportanceCommand } from "./commands/importance";
import { addEvaluateCommands } from "./commands/evaluate";
import { addLoadCommand } from "./commands/load";
import { addOperatingCommands } from "./commands/operate";
import { addPipelineCommands } from "./commands/pipelines";
import { addRunActionCommands } from "./commands/run-actions";
import { addRunCommands } from "./commands/runs";
import { addGrantsCommand } from "./commands/grants";
import { addStartCommands } from "./commands/start";
import { addTestCommand } from "./commands/test";

const program = new Command("ravlen")
  .description("Training and batch scoring pipelines, where the data lives")
  .showHelpAfterError();
addStartCommands(program);
addGrantsCommand(program);
addFileCommands(program);
addDataCommands(program);
addRunCommands(program);
addRunActionCommands(program);
addPipelineCommands(program);
addOperatingCommands(program);
addEvaluateCommands(program);
addImportanceCommand(program);
addTestCommand(program);
addBenchCommand(program);
addLoadCommand(program);

program.parseAsync(process.argv).catch((error: unknown) => {
  process.stderr.write(`ravlen: ${errorText(error)}\n`);
  process.exit(1);
});
