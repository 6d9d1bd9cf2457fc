<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Console;

use Fulcrion\Tools\Bench\Measurement;
use Fulcrion\Tools\ToolsProvider;
use Illuminate\Console\Command;

final class BenchCommand extends Command
{
    protected $signature = 'bench {name?* : which; all when left out} {--json : for machines}';

    protected $description = 'Measures speed against peers taken in the same run';

    public function handle(): int
    {
        $wanted = array_map(strval(...), (array) $this->argument('name'));
        $benches = [];
        foreach (ToolsProvider::BENCHES as $class) {
            $bench = app($class);
            assert($bench instanceof Measurement);
            $benches[$bench->name()] = $bench;
        }
        $unknown = array_diff($wanted, array_keys($benches));
        if ($unknown !== []) {
            $this->error('There is no bench '.implode(', ', $unknown).'. There are '.implode(', ', array_keys($benches)).'.');

            return self::INVALID;
        }
        $json = [];
        foreach ($wanted === [] ? $benches : array_intersect_key($benches, array_flip($wanted)) as $bench) {
            $quiet = (bool) $this->option('json');
            foreach ($bench->run(fn (string $text) =>
                $quiet ? null : $this->line("<fg=gray>  {$bench->name()}: {$text}</>")) as $measured) {
                $json[] = [
                    'bench' => $bench->name(),
                    'name' => $measured->name,
                    'value' => round($measured->value, 4),
                    'unit' => $measured->unit,
                    'aim' => $measured->aim,
                    'met' => $measured->met,
                ];
                if (! $quiet) {
                    $this->line(
                        sprintf(
                            '%-12s %-52s %12s %-14s %s',
                            $bench->name(),
                            $measured->name,
                            number_format($measured->value, $measured->value < 100 ? 2 : 0, '.', ' '),
                            $measured->unit,
                            $measured->aim === null ? '' : "{$measured->aim}: ".($measured->met === true ? 'met' : 'aim missed'),
                        ),
                    );
                }
            }
        }
        if ($this->option('json')) {
            $this->line((string) json_encode($json, JSON_PRETTY_PRINT));
        }

        return self::SUCCESS;
    }
}
