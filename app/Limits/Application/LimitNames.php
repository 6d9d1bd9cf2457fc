<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Fulcrion\Core\Limits\ScopeKind;
use Illuminate\Support\Facades\DB;

/**
 * Names limits can be set for: of those that have run something, and of people who may.
 */
final readonly class LimitNames
{
    public function __construct(private LimitBook $book)
    {
    }

    /**
     * @return list<string> each after what it is, as it is typed
     */
    public function all(): array
    {
        $all = [];
        foreach ([ScopeKind::Team, ScopeKind::Person, ScopeKind::Application, ScopeKind::Queue, ScopeKind::Cluster] as $kind) {
            array_push($all, ...array_map(static fn (string $one): string => "{$kind->value} {$one}", $this->of($kind)));
        }

        return $all;
    }

    /**
     * @return list<string> ascending
     */
    public function of(ScopeKind $kind): array
    {
        $names = match ($kind) {
            ScopeKind::Team => [...DB::table('usage_teams')->pluck('name')->all(), ...array_column($this->book->members(), 1)],
            ScopeKind::Person => [
                ...self::origins('user_name'),
                ...array_column($this->book->members(), 0),
                ...User::query()->whereNull('disabled_at')->get()->map(Actor::login(...))->all(),
            ],
            ScopeKind::Application => [...self::origins('application'), 'workbench', 'jobs'],
            ScopeKind::Queue => self::origins('queue_name'),
            ScopeKind::Cluster => Cluster::query()->pluck('slug')->all(),
        };
        $names = array_values(array_unique(array_filter(array_map(strval(...), $names), static fn (string $one): bool => $one !== ''
            && $one !== '(none)')));
        sort($names);

        return $names;
    }

    /**
     * @return list<mixed>
     */
    private static function origins(string $column): array
    {
        return array_values(DB::table('origins')->distinct()->pluck($column)->all());
    }
}
