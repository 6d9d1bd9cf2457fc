<?php

declare(strict_types=1);

namespace App\Estate\Models;

use App\Platform\Support\Clock;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\Rejection;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\SoftDeletes;
use Illuminate\Foundation\Auth\User as Authenticatable;
use Illuminate\Support\Carbon;
use Laravel\Sanctum\HasApiTokens;

/**
 * A cluster is also who a telemetry token speaks for, hence the authenticatable base. One that was removed stays as a name for what the
 * ledger keeps of it, and is found by nothing else.
 *
 * @property int $id
 * @property string $slug
 * @property string $name
 * @property string $role
 * @property string $connector mariadb, practice or files
 * @property Dialect $dialect
 * @property bool $is_own
 * @property string|null $host
 * @property int|null $port
 * @property string|null $username
 * @property string|null $secret
 * @property string|null $ender_username of the account that may stop sessions, and nothing else
 * @property string|null $ender_secret
 * @property bool $tls
 * @property int $interval_seconds
 * @property int $retention_days
 * @property int $sample_days
 * @property bool $paused
 * @property Carbon|null $created_at
 * @property Carbon|null $polled_at
 * @property Carbon|null $failing_since
 * @property string|null $last_error
 * @property array{digests: int, executions: int, resets: int, cursor: int, tookMs: int}|null $last_poll
 */
final class Cluster extends Authenticatable
{
    use HasApiTokens;
    use SoftDeletes;

    private const SILENT_SECONDS = 60;

    /** Of readings older than a day one a minute is kept. */
    private const PATIENCE_SECONDS = 90;

    protected $guarded = ['id'];

    /** One that is not kept yet has what the store would give it. */
    protected $attributes = ['tls' => false];

    protected $hidden = ['username', 'secret', 'ender_username', 'ender_secret'];

    protected function casts(): array
    {
        return [
            'dialect' => Dialect::class,
            'is_own' => 'bool',
            'tls' => 'bool',
            'paused' => 'bool',
            'last_poll' => 'array',
            'username' => 'encrypted',
            'secret' => 'encrypted',
            'ender_username' => 'encrypted',
            'ender_secret' => 'encrypted',
            'polled_at' => 'datetime',
            'failing_since' => 'datetime',
            'port' => 'int',
            'interval_seconds' => 'int',
            'retention_days' => 'int',
            'sample_days' => 'int',
        ];
    }

    public function getRouteKeyName(): string
    {
        return 'slug';
    }

    /** A record may name the cluster it is for; one that names another does not belong here. */
    public function refuse(Execution $execution): ?Rejection
    {
        $named = $execution->origin->cluster === null ? null : mb_strtolower($execution->origin->cluster);

        return $named === null || $named === mb_strtolower($this->slug) || $named === mb_strtolower($this->name)
            ? null
            : new Rejection('cluster', "is \"{$execution->origin->cluster}\", but this is for {$this->name}");
    }

    /** Whether a live server was not read for much longer than it should be. */
    public function isSilent(): bool
    {
        return $this->isLive() && ! $this->paused && $this->polled_at !== null &&
            Clock::seconds() - $this->polled_at->getTimestamp() > max(self::SILENT_SECONDS, 3 * $this->interval_seconds);
    }

    /** Readings further apart than this many seconds have a gap between them. */
    public function patienceSeconds(): int
    {
        return max(self::PATIENCE_SECONDS, 3 * $this->interval_seconds);
    }

    /**
     * All clusters, production first.
     *
     * @return Builder<self>
     */
    public static function productionFirst(): Builder
    {
        return self::query()->orderByRaw("role = 'production' DESC")->orderBy('id');
    }

    /**
     * The one of them that is asked for; the first where that is none of them.
     *
     * @param  Collection<int, self>  $among
     * @param  mixed  $slug as an address has it
     */
    public static function chosen(Collection $among, mixed $slug): ?self
    {
        return $among->firstWhere('slug', $slug) ?? $among->first();
    }

    /** The one an address names, or there is nothing at that address. */
    public static function named(string $slug): self
    {
        return self::query()->where('slug', $slug)->firstOrFail();
    }

    /**
     * Live servers that are looked at by themselves.
     *
     * @param  string|null  $only slug of the one that is asked for
     * @return Collection<int, self>
     */
    public static function watched(?string $only): Collection
    {
        $query = self::query()->where('connector', 'mariadb')->where('paused', false);
        if ($only !== null) {
            $query->where('slug', $only);
        }

        return $query->get();
    }

    public function isLive(): bool
    {
        return $this->connector === 'mariadb';
    }
}
