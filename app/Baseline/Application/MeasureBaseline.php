<?php

declare(strict_types=1);

namespace App\Baseline\Application;

use App\Baseline\Models\BaselineRun;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use Fulcrion\Core\Baseline\BaselineResource;
use Fulcrion\Core\Health\NodeSet;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\File;
use Symfony\Component\Process\PhpExecutableFinder;
use Symfony\Component\Process\Process;

/**
 * Measures what this host can do, by the program agents are; the profile of a practice cluster plays its nodes.
 */
final class MeasureBaseline implements ShouldQueue
{
    use Queueable;

    private const STEPS = ['fio-write', 'fio-read', 'fio-random', 'sysbench-cpu', 'sysbench-memory', 'iperf3'];

    /** Rounds a processor of a practice cluster does in a second, by its profile. */
    private const ROUNDS = 1_000;

    public int $timeout = 1_200;

    public int $tries = 1;

    public function __construct(private readonly int $runId)
    {
    }

    public function handle(Clusters $clusters): void
    {
        $run = BaselineRun::query()->find($this->runId);
        if ($run === null || $run->state !== 'waiting') {
            return;
        }
        $run->carryOut(fn (Progress $progress): array => $run->plan['kind'] === 'practice' ? $this->node($run, $clusters)
            : $this->here($run, $progress));
    }

    /**
     * @return array<string, mixed>
     *
     * @throws SourceError
     */
    private function node(BaselineRun $run, Clusters $clusters): array
    {
        $set = $clusters->as(Actor::system(SystemActor::Health, 'what nodes can do'))->nodes($run->cluster)?->nodes();
        $node = $set === null ? false : array_search($run->host, $set->names, true);
        if ($set === null || $node === false) {
            throw new SourceError("There is no node {$run->host} of {$run->cluster->name}.");
        }

        return ['outcome' => 'complete', 'at' => Clock::seconds(), 'notes' => [], 'values' => self::played($set, $node, Clock::seconds())];
    }

    /**
     * What a node of a practice cluster can do at a moment, as its profile has it.
     *
     * @return array<value-of<BaselineResource>, float>
     */
    public static function played(NodeSet $set, int $node, int $at): array
    {
        $disk = $set->shape->diskBytesPerSecond * $set->diskShare($node, $at * 1_000_000);

        return [
            BaselineResource::Processors->value => (float) $set->shape->cores * self::ROUNDS,
            BaselineResource::DiskRead->value => $disk,
            BaselineResource::DiskWrite->value => $disk,
            BaselineResource::Network->value => (float) $set->shape->networkBytesPerSecond,
        ];
    }

    /**
     * @return array<string, mixed>
     *
     * @throws SourceError
     */
    private function here(BaselineRun $run, Progress $progress): array
    {
        $folder = storage_path('app/baseline');
        File::ensureDirectoryExists($folder, 0o700);
        $plan = $run->plan;
        $process = new Process([(string) (new PhpExecutableFinder())->find(), base_path('bin/agent'), '--measure', "--folder={$folder}",
            "--seconds={$plan['seconds']}",
            "--space={$plan['spaceBytes']}", "--load={$plan['load']}", '--partner='.($plan['partner'] === '' ? 'self' : $plan['partner'])],
            $folder, null, null, (float) $this->timeout);
        $process->start();
        $stop = $progress->stop();
        $isStopping = false;
        while ($process->isRunning()) {
            usleep(100_000);
            if (preg_match_all('~^step (\S+)$~m', $process->getErrorOutput(), $steps) > 0) {
                $step = $steps[1][count($steps[1]) - 1];
                $progress->tell("measuring: {$step}", (int) array_search($step, self::STEPS, true) / count(self::STEPS));
            }
            if (! $isStopping && $stop()) {
                // It ends its tool, takes its file away and tells what it has.
                $process->signal(SIGTERM);
                $isStopping = true;
            }
        }
        $result = json_decode($process->getOutput(), true);

        return is_array($result) ? BaselineBook::kept($result)
            : throw new SourceError('The program that measures did not end as it should: '.mb_strcut(trim($process->getErrorOutput()),
                -200));
    }
}
