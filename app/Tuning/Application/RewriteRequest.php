<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Illuminate\Contracts\Cache\Repository;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Str;

/**
 * Statements people have put to the planner, kept for a while under a key only they can use.
 */
final readonly class RewriteRequest
{
    private const SECONDS = 86_400;

    public function __construct(private Repository $cache, private Encrypter $encrypter)
    {
    }

    public function keep(User $user, Cluster $cluster, string $schema, string $sql): string
    {
        $key = (string) Str::uuid();
        $this->cache->put(
            "rewrites:{$user->id}:{$key}",
            $this->encrypter->encrypt(['cluster' => $cluster->id, 'schema' => $schema, 'sql' => $sql]),
            self::SECONDS,
        );

        return $key;
    }

    /**
     * @return array{Cluster, string, string}|null cluster, schema, statement
     */
    public function open(User $user, string $key): ?array
    {
        $sealed = $this->cache->get("rewrites:{$user->id}:{$key}");
        /** @var array{cluster: int, schema: string, sql: string}|null $values */
        $values = is_string($sealed) ? $this->encrypter->decrypt($sealed) : null;
        $cluster = $values === null ? null : Cluster::query()->find($values['cluster']);

        return $values === null || ! ($cluster instanceof Cluster) ? null : [$cluster, $values['schema'], $values['sql']];
    }
}
