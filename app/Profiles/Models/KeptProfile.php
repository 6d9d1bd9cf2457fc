<?php

declare(strict_types=1);

namespace App\Profiles\Models;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use App\Platform\Support\Role;
use Fulcrion\Core\Profiling\StackReader;
use Fulcrion\Core\Profiling\StackTree;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\SoftDeletingScope;

/**
 * Where time went, as it was sent or taken.
 *
 * @property int $id
 * @property int|null $cluster_id
 * @property string $name
 * @property string $kind file, server or statement
 * @property string $unit samples or ms
 * @property float $total
 * @property float $folded what counts for a place further out, as there were too many
 * @property int $refused lines that could not be read
 * @property int|null $only_for the person who may see it, where it was taken with their rights
 * @property array{seconds?: int, sql?: string, schema?: string}|null $plan
 * @property string|null $stacks
 * @property string $state waiting, running, done, stopped or failed
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property-read Cluster|null $cluster
 */
final class KeptProfile extends Model implements BackgroundRun
{
    use RunsInBackground;

    /** Places that are kept, the largest first. */
    private const MOST_LINES = 30_000;

    public $timestamps = false;

    protected $table = 'profiles';

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['plan' => 'encrypted:array', 'stop_asked' => 'bool', 'done_share' => 'float', 'total' => 'float', 'folded' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class)->withoutGlobalScope(SoftDeletingScope::class);
    }

    /**
     * Those somebody may see: what was taken with the rights of one person is for that person.
     *
     * @return Builder<self>
     */
    public static function seenBy(User $user): Builder
    {
        return self::query()->where(static fn (Builder $query) => $query->whereNull('only_for')->orWhere('only_for', $user->id));
    }

    public function mayBeRemovedBy(User $user): bool
    {
        return $user->role === Role::Owner || $user->name === $this->asked_by;
    }

    /**
     * What is kept of a tree.
     *
     * @return array<string, mixed> columns
     */
    public static function kept(StackTree $tree): array
    {
        $lines = $tree->lines();
        $rest = 0.0;
        foreach (array_slice($lines, self::MOST_LINES) as $line) {
            $rest += (float) substr($line, (int) strrpos($line, ' ') + 1);
        }
        $lines = array_slice($lines, 0, self::MOST_LINES);

        return [
            'total' => $tree->root->total,
            'folded' => $tree->folded() + $rest,
            'stacks' => (string) gzencode(implode("\n", $rest > 0.0 ? [...$lines, 'all else '.round($rest, 3)] : $lines), 6),
        ];
    }

    public function text(): string
    {
        return $this->stacks === null ? '' : (string) gzdecode($this->stacks);
    }

    public function tree(): StackTree
    {
        $reader = new StackReader($tree = new StackTree());
        foreach (explode("\n", $this->text()) as $line) {
            $reader->line($line);
        }

        return $tree;
    }
}
