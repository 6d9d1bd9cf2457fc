<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use App\Estate\Connectors\ServerReach;
use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;
use PDO;
use PDOException;
use RuntimeException;

/**
 * Where the readings of each cluster are kept: in our own database, or in one of another server. Numbers of series are ours in any case.
 */
final class Places
{
    private const PREFIX = 'readings-';

    private const ANSWER_SECONDS = 5;

    /** @var array<int, KeptPlace>|null by cluster */
    private ?array $known = null;

    /**
     * @throws PlaceError where it cannot be reached
     */
    public function of(int $clusterId): Connection
    {
        $place = $this->known()[$clusterId] ?? null;

        return $place !== null && $place->state->isThere() ? self::connected($place) : DB::connection();
    }

    /**
     * @return list<int> clusters whose readings are kept elsewhere
     */
    public function away(): array
    {
        return array_keys(array_filter($this->known(), static fn (KeptPlace $one): bool => $one->state->isThere()));
    }

    public function forget(): void
    {
        $this->known = null;
    }

    /**
     * @throws PlaceError
     */
    public static function connected(KeptPlace $place): Connection
    {
        $name = self::PREFIX.$place->id;
        // One that was saved with other settings is another one.
        $settings = self::settings($place);
        if (config("database.connections.{$name}") !== $settings) {
            DB::purge($name);
            config(["database.connections.{$name}" => $settings]);
            DB::extend($name, static fn (array $config, string $as): Connection => new PlaceConnection($place, ['name' => $as] + $config));
        }
        try {
            return ServerReach::within(self::ANSWER_SECONDS, static function () use ($name): Connection {
                $connection = DB::connection($name);
                $connection->getPdo();

                return $connection;
            });
        } catch (PDOException $exception) {
            throw PlaceError::of($place, $exception);
        }
    }

    /**
     * @return array<string, mixed>
     *
     * @throws PlaceError where it leads to this machine or its own services
     */
    private static function settings(KeptPlace $place): array
    {
        try {
            $host = ServerReach::host($place->host, $place->tls);
        } catch (RuntimeException $refused) {
            throw new PlaceError($refused->getMessage());
        }

        return [
            'host' => $host, 'port' => $place->port, 'database' => $place->name,
            'username' => $place->username, 'password' => $place->secret,
            'options' => [PDO::ATTR_EMULATE_PREPARES => true, PDO::ATTR_STRINGIFY_FETCHES => false] + ServerReach::options($place->tls),
        ] + array_diff_key((array) config('database.connections.mariadb'), ['read' => 0, 'write' => 0, 'sticky' => 0]);
    }

    /**
     * @return array<int, KeptPlace>
     */
    private function known(): array
    {
        if ($this->known === null) {
            $this->known = [];
            foreach (KeptPlace::query()->get() as $place) {
                $this->known[$place->cluster_id] = $place;
            }
        }

        return $this->known;
    }
}
