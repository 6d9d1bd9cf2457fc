<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Settings\SettingCommand;
use PDO;
use PDOException;

/**
 * Variables of a MariaDB: read by the watcher's account, set by the one that may also stop sessions.
 */
final readonly class MariaDbSettings implements SettingSource
{
    private const SECONDS = 5;

    private const READ_ONLY = '1238';

    private const DENIED = '1227';

    public function __construct(private Cluster $cluster)
    {
    }

    public function settings(): array
    {
        $variables = [];
        foreach ((new MariaDbState($this->cluster))->variables() as $name => $value) {
            $variables[SettingCommand::SERVER.$name] = $value;
        }

        return ['' => $variables];
    }

    public function canSet(string $name): bool
    {
        return str_starts_with($name, SettingCommand::SERVER) && (string) $this->cluster->ender_username !== '';
    }

    public function trySetting(string $host, string $name): string
    {
        $now = $this->settings()[''][$name] ?? throw new SourceError("{$this->cluster->name} knows no variable ".self::bare($name).'.');
        $this->set($host, $name, $now);

        return $now;
    }

    public function set(string $host, string $name, string $value): void
    {
        $sql = SettingCommand::statement($name, $value);
        if ($sql === null || (string) $this->cluster->ender_username === '') {
            throw new SourceError('No account is set that may set variables. Set one on the page of the cluster.');
        }
        try {
            $pdo = MariaDbSource::acting($this->cluster, self::SECONDS);
            $pdo->exec($sql);
            // The server takes some values as others, and says so in a warning only.
            $warning = $pdo->query('SHOW WARNINGS')->fetch(PDO::FETCH_NUM);
        } catch (PDOException $exception) {
            throw new SourceError(match (true) {
                str_contains($exception->getMessage(), self::READ_ONLY) =>
                    self::bare($name).' can be set at the start of the server only: write it into its configuration.',
                str_contains($exception->getMessage(), self::DENIED) => "{$this->cluster->ender_username} may not set ".self::bare($name)
                    .'. Give the account the right the server names, or set it by hand: '.MariaDbSource::clean($exception),
                default => MariaDbSource::clean($exception),
            });
        }
        if (is_array($warning)) {
            throw new SourceError('The server did not take the value as it was sent: '.$warning[2]);
        }
    }

    private static function bare(string $name): string
    {
        return substr($name, strlen(SettingCommand::SERVER));
    }
}
