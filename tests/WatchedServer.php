<?php

declare(strict_types=1);

namespace Tests;

use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use App\Telemetry\Collect\Collector;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Tools\Live\PrivateServer;

/**
 * A real server that all tests of a class share, and the cluster it is watched as.
 */
trait WatchedServer
{
    private static ?PrivateServer $server = null;

    private Cluster $cluster;

    protected function tearDown(): void
    {
        self::$server?->closeSessions();
        parent::tearDown();
    }

    public static function tearDownAfterClass(): void
    {
        self::$server?->remove();
        self::$server = null;
        parent::tearDownAfterClass();
    }

    /**
     * @return bool whether it was started just now, and has nothing in it but the account that watches
     */
    private static function started(string ...$options): bool
    {
        if (self::$server !== null) {
            return false;
        }
        self::$server = PrivateServer::start('--performance-schema=ON', ...$options);
        $pdo = self::$server->pdo();
        $pdo->exec("CREATE USER watcher@'127.0.0.1' IDENTIFIED BY 'w'");
        $pdo->exec("GRANT PROCESS ON *.* TO watcher@'127.0.0.1'");
        $pdo->exec("GRANT SELECT ON performance_schema.* TO watcher@'127.0.0.1'");

        return true;
    }

    /**
     * @param  array<string, mixed>  $more
     */
    private function watched(string $slug, array $more = []): Cluster
    {
        config(['fulcrion.reachable' => '127.0.0.1']);

        return $this->cluster = Cluster::query()->create($more + [
            'slug' => $slug,
            'name' => ucfirst($slug),
            'role' => 'production',
            'connector' => 'mariadb',
            'dialect' => Dialect::MariaDb,
            // Our own may be on this machine.
            'is_own' => true,
            'host' => '127.0.0.1',
            'port' => self::$server?->port,
            'username' => 'watcher',
            'secret' => 'w',
        ])->refresh();
    }

    private function read(): void
    {
        app(Collector::class)->poll($this->cluster->refresh());
        self::assertNull($this->cluster->refresh()->last_error);
    }

    private static function server(): PrivateServer
    {
        self::assertNotNull(self::$server);

        return self::$server;
    }

    private static function admin(): ThrowingPdo
    {
        return self::server()->pdo();
    }
}
