<?php

declare(strict_types=1);

namespace App\Jobs\Console;

use App\Estate\Models\Cluster;
use App\Jobs\Application\RecordedJobs;
use App\Jobs\Models\JobRun;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Console\Command;

final class ImportJobCommand extends Command
{
    protected $signature = 'jobs:import {file : record of a parallel job: JSON, CSV of tasks, or OTLP JSON; plain or gzip}
        {--cluster= : the cluster it ran on}
        {--name= : name of the job, where the file has none}
        {--workers= : workers reserved, where the file does not say}
        {--price= : of one worker for an hour, where the file does not say}';

    protected $description = 'Reads the record of a parallel job into the store';

    public function handle(RecordedJobs $recorded): int
    {
        $name = (string) $this->input->getOption('cluster');
        $cluster = Cluster::query()->where('slug', $name)->orWhere('name', $name)->first();
        if (! ($cluster instanceof Cluster)) {
            $this->components->error(
                "No cluster \"{$name}\". Name one with --cluster=: ".Cluster::query()->orderBy('slug')->pluck('slug')->implode(', '),
            );

            return self::INVALID;
        }
        foreach (['workers' => '~^\d{1,7}$~', 'price' => '~^\d+(\.\d+)?$~'] as $option => $form) {
            $said = (string) $this->input->getOption($option);
            if ($this->option($option) !== null && preg_match($form, $said) !== 1) {
                $this->components->error("--{$option}={$said} is no number.");

                return self::INVALID;
            }
        }
        $path = (string) $this->input->getArgument('file');
        $run = $recorded->begin($cluster, basename($path), null, 'command line');
        // Ctrl+C asks the reading to end after the chunk in hand.
        $this->trap([SIGINT, SIGTERM], static function () use ($run): void {
            JobRun::query()
                ->whereKey($run->id)
                ->update(['stop_asked' => true]);
        });
        $recorded->read($run, $path, [
            'name' => $this->option('name') ?? pathinfo($path, PATHINFO_FILENAME),
            'workers' => $this->option('workers') === null ? null : (int) $this->option('workers'),
            'worker_price' => $this->option('price') === null ? null : (float) $this->option('price'),
        ]);
        foreach ($run->problems ?? [] as $problem) {
            $run->isRun() ? $this->components->warn($problem) : $this->components->error($problem);
        }
        if (! $run->isRun()) {
            $this->components->error(
                $run->state === 'stopped' ? 'Stopped. Nothing was kept.' : 'The record was refused. Nothing was kept.',
            );

            return self::FAILURE;
        }
        $this->components->info(
            "Run {$run->id} of {$run->name}: ".Quantity::count($run->tasks)." tasks, {$run->state}. See Tune > Jobs > {$run->id}.",
        );

        return self::SUCCESS;
    }
}
