<?php

declare(strict_types=1);

namespace App\Estate\Console;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Sql\Dialect;
use Illuminate\Console\Command;
use Illuminate\Support\Str;

final class InstallCommand extends Command
{
    protected $signature = 'estate:install {--without-owner : the demo brings one}';

    protected $description = 'Makes what every installation has: the first owner and the store itself as a watched cluster';

    public function handle(): int
    {
        // The password is made anew with the settings file, so it is written at each start.
        Cluster::query()
            ->updateOrCreate(
                ['slug' => 'own-store'],
                [
                    'name' => 'Own store',
                    'role' => 'the MariaDB that Fulcrion itself runs on',
                    'connector' => 'mariadb',
                    'dialect' => Dialect::MariaDb,
                    'is_own' => true,
                    'host' => config('database.connections.mariadb.write.host')[0],
                    'port' => config('database.connections.mariadb.port'),
                    'username' => config('fulcrion.watcher.user'),
                    'secret' => config('fulcrion.watcher.password'),
                    'ender_username' => config('fulcrion.ender.user'),
                    'ender_secret' => config('fulcrion.ender.password'),
                ],
            )
            ->forceFill(['interval_seconds' => 10])
            ->save();
        if (! $this->option('without-owner') && ! User::query()->where('role', Role::Owner)->exists()) {
            $password = Str::password(16, symbols: false);
            User::query()->create(['name' => 'Owner', 'email' => 'owner@fulcrion.example', 'password' => $password, 'role' => Role::Owner]);
            $this->line("  First owner: owner@fulcrion.example, password {$password} (shown this once; change it under Account)");
        }

        return self::SUCCESS;
    }
}
