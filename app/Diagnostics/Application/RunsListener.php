<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Telemetry\Events\RunsRead;
use Illuminate\Support\Facades\Log;
use Throwable;

/**
 * Learns from the single runs of a live server what counters do not tell. Whatever goes wrong here is logged: the next reading must not
 * wait for it.
 */
final readonly class RunsListener
{
    public function __construct(private DefinitionChanges $definitions, private PatternCounts $patterns, private PlanTakes $plans)
    {
    }

    public function handle(RunsRead $read): void
    {
        foreach ([$this->definitions->keep(...), $this->patterns->count(...), $this->plans->take(...)] as $learn) {
            try {
                $learn($read->cluster, $read->runs);
            } catch (Throwable $exception) {
                Log::error('Learning from the runs of a live server failed', [
                    'cluster' => $read->cluster->slug,
                    'exception' => $exception,
                ]);
            }
        }
    }
}
