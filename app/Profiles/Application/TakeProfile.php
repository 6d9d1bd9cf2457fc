<?php

declare(strict_types=1);

namespace App\Profiles\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Platform\Models\User;
use App\Platform\Runs\Progress;
use App\Profiles\Models\KeptProfile;
use Fulcrion\Core\Profiling\PlanStacks;
use Fulcrion\Core\Profiling\StackTree;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * Takes a profile: looks at the sessions of a server again and again, or runs a statement with the rights of who asked.
 */
final class TakeProfile implements ShouldQueue
{
    use Queueable;

    /** Between two looks. */
    private const EVERY_US = 20_000;

    public int $timeout = 180;

    public int $tries = 1;

    public function __construct(private readonly int $profileId)
    {
    }

    public function handle(Clusters $clusters): void
    {
        $profile = KeptProfile::query()->find($this->profileId);
        if ($profile === null || $profile->state !== 'waiting') {
            return;
        }
        $profile->carryOut(fn (Progress $progress): array => KeptProfile::kept($profile->kind === 'server'
            ? $this->sampled($profile, $clusters, $progress) : $this->ran($profile, $clusters, $progress)) + ['plan' => null]);
    }

    /** @throws SourceError */
    private function sampled(KeptProfile $profile, Clusters $clusters, Progress $progress): StackTree
    {
        $source = $profile->cluster === null ? null
            : $clusters->as(Actor::system(SystemActor::Health, 'what its sessions do'))->samples($profile->cluster);
        if ($source === null) {
            throw new SourceError('This cluster does not say what its sessions do at a moment.');
        }
        $tree = new StackTree();
        $seconds = $profile->plan['seconds'] ?? 5;
        $start = $last = (int) hrtime(true);
        $often = $progress->often();
        do {
            usleep(self::EVERY_US);
            $sessions = $source->sample();
            $now = (int) hrtime(true);
            foreach ($sessions as $frames) {
                // Each look stands for the time since the one before.
                $tree->add($frames, ($now - $last) / 1e6);
            }
            $last = $now;
            $often('looking at sessions', ($now - $start) / 1e9 / $seconds);
        } while ($now - $start < $seconds * 1e9);

        return $tree->root->total > 0.0 ? $tree : throw new SourceError('No session was at work in that time.');
    }

    /** @throws SourceError */
    private function ran(KeptProfile $profile, Clusters $clusters, Progress $progress): StackTree
    {
        $person = User::query()->find($profile->only_for);
        $runner = $profile->cluster === null || $person === null ? null
            : $clusters->for($person, 'workbench')->runner($profile->cluster);
        if ($runner === null) {
            throw new SourceError('Statements cannot be run on this cluster.');
        }
        $progress->tell('running the statement', 0.2);
        $answer = $runner->plan((string) ($profile->plan['sql'] ?? ''), (string) ($profile->plan['schema'] ?? ''), true, $progress->stop());
        $tree = $answer->plan === null ? new StackTree() : PlanStacks::of($answer->plan);

        return $tree->root->total > 0.0 ? $tree : throw new SourceError('This cluster does not say what the steps of a statement took.');
    }
}
