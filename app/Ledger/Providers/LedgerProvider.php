<?php

declare(strict_types=1);

namespace App\Ledger\Providers;

use App\Ledger\Changes\Performer;
use App\Ledger\Changes\Performers;
use Illuminate\Contracts\Foundation\Application;
use Illuminate\Support\ServiceProvider;

final class LedgerProvider extends ServiceProvider
{
    public function register(): void
    {
        $this->app->bind(Performers::class, static function (Application $app): Performers {
            /** @var iterable<Performer> $brought */
            $brought = $app->tagged(Performers::TAG);

            return new Performers($brought);
        });
    }
}
