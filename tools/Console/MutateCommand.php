<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Console;

use Fulcrion\Tools\Mutants\Mutant;
use Fulcrion\Tools\Mutants\MutantRun;
use Fulcrion\Tools\Mutants\Mutator;
use Illuminate\Console\Command;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Finder\Finder;

/**
 * Puts one small mistake after another into the files of a folder and says which of them no test notices.
 */
final class MutateCommand extends Command
{
    protected $signature = 'mutate {folder : such as core/src/Storage} {tests* : paths of the tests that should notice}
        {--count=40 : how many mistakes} {--seed=1 : which ones}';

    protected $description = 'Say which small mistakes in a folder no test would notice';

    public function handle(Mutator $mutator): int
    {
        $folder = $this->argument('folder');
        $mutants = self::chosen(
            is_string($folder) ? $this->all($mutator, $folder) : [],
            (int) $this->option('count'),
            (int) $this->option('seed'),
        );
        if ($mutants === []) {
            $this->components->error('There is nothing in this folder a mistake could be made in.');

            return self::FAILURE;
        }
        /** @var list<string> $tests */
        $tests = $this->argument('tests');
        $plain = (new MutantRun(base_path(), $tests))->seconds();
        if ($plain === null) {
            $this->components->error('These tests fail without any mistake. Mend them first.');

            return self::FAILURE;
        }
        $run = new MutantRun(base_path(), $tests, 5 * $plain + 10);
        $killed = 0;
        foreach ($mutants as $mutant) {
            $noticed = $run->isKilled($mutant);
            $killed += $noticed ? 1 : 0;
            $this->line(($noticed ? '  noticed   ' : '  SURVIVED  ').$mutant->words());
        }
        $this->line("  {$killed} of ".count($mutants).' were noticed ('.round(100 * $killed / count($mutants)).'%), '.round($plain, 1).
            ' s for the tests each time');

        return self::SUCCESS;
    }

    /**
     * @return list<Mutant>
     */
    private function all(Mutator $mutator, string $folder): array
    {
        $paths = is_file(base_path($folder)) ? [$folder] : [];
        if (is_dir(base_path($folder))) {
            foreach (Finder::create()->files()->name('*.php')->in(base_path($folder)) as $file) {
                $paths[] = substr($file->getPathname(), strlen(base_path()) + 1);
            }
        }
        sort($paths);

        return array_merge(
            [],
            ...array_map(static fn (string $path): array => $mutator->of($path, (string) file_get_contents(base_path($path))), $paths),
        );
    }

    /**
     * @param  list<Mutant>  $mutants
     * @return list<Mutant>
     */
    public static function chosen(array $mutants, int $count, int $seed): array
    {
        $shuffled = (new Randomizer(new Mt19937($seed)))->shuffleArray($mutants);

        return array_slice(array_values($shuffled), 0, max(0, $count));
    }
}
