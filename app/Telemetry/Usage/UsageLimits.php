<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Platform\Models\User;
use App\Platform\Support\Role;
use Illuminate\Support\Facades\DB;

/**
 * Which viewers are limited to some teams.
 */
final class UsageLimits
{
    /**
     * @return list<string>|null the teams a person may see; null for all of them
     */
    public static function of(?User $user): ?array
    {
        if ($user === null) {
            return [];
        }
        if ($user->role !== Role::Viewer) {
            return null;
        }
        $teams = DB::table('usage_limits')->where('user_id', $user->id)->value('teams');

        return is_string($teams) ? self::list($teams) : null;
    }

    /**
     * @param  list<string>|null  $teams null for all of them
     */
    public static function set(User $user, ?array $teams): void
    {
        if ($teams === null) {
            DB::table('usage_limits')->where('user_id', $user->id)->delete();

            return;
        }
        DB::table('usage_limits')->upsert(
            ['user_id' => $user->id, 'teams' => json_encode($teams, JSON_THROW_ON_ERROR)],
            ['user_id'],
            ['teams'],
        );
    }

    /**
     * @return array<int, list<string>> teams by the id of a viewer
     */
    public static function all(): array
    {
        return DB::table('usage_limits')->pluck('teams', 'user_id')
            ->map(static fn (mixed $teams): array => self::list((string) $teams))->all();
    }

    /**
     * @return list<string>
     */
    private static function list(string $json): array
    {
        return array_values(array_map(strval(...), (array) json_decode($json, true)));
    }
}
