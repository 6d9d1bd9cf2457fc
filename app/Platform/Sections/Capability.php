<?php

declare(strict_types=1);

namespace App\Platform\Sections;

use App\Platform\Models\User;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\ServiceProvider;
use ReflectionClass;

/**
 * Registers a capability: its pages, routes.php and api.php of its folder, the commands in its folder Console, what it does by
 * itself and who may do what. To add one, derive its provider from this and name it in bootstrap/providers.php.
 */
abstract class Capability extends ServiceProvider
{
    public function boot(Sections $sections): void
    {
        $folder = dirname((string) (new ReflectionClass($this))->getFileName());
        $sections->add($folder, $this->pages(...));
        foreach ($this->abilities() as $ability => $roles) {
            Gate::define($ability, static fn (User $user): bool => in_array($user->role, $roles, true));
        }
        if ($this->app->runningInConsole()) {
            $namespace = substr(static::class, 0, (int) strrpos(static::class, '\\')).'\\Console\\';
            /** @var list<class-string> $commands */
            $commands = array_map(
                static fn (string $file): string => $namespace.basename($file, '.php'),
                File::glob("{$folder}/Console/*Command.php"),
            );
            $this->commands($commands);
            $this->callAfterResolving(Schedule::class, $this->schedule(...));
        }
    }

    /**
     * @return list<Page>
     */
    protected function pages(): array
    {
        return [];
    }

    /**
     * Who may do what, where that goes by their role alone.
     *
     * @return array<string, list<Role>>
     */
    protected function abilities(): array
    {
        return [];
    }

    /** What is done by itself, and how often. */
    protected function schedule(Schedule $schedule): void
    {
    }
}
