<?php

declare(strict_types=1);

namespace App\Settings\Application;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Settings\SettingProblem;
use Fulcrion\Core\Settings\SettingsProfile;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/**
 * How hosts of each cluster should be set, as somebody wrote it; the profile that ships with the application where nobody did.
 */
final readonly class ProfileBook
{
    public const MOST_BYTES = 500_000;

    public function text(Cluster $cluster): string
    {
        $own = DB::table('setting_profiles')->where('cluster_id', $cluster->id)->value('text');

        return is_string($own) ? $own : $this->shipped($cluster);
    }

    /** What is there before somebody writes another one. */
    public function shipped(Cluster $cluster): string
    {
        return (string) file_get_contents(resource_path('settings/'.($cluster->connector === 'mariadb' ? 'mariadb' : 'nodes').'.yaml'));
    }

    /** @return array{by: string, us: int}|null null where it is the one that ships */
    public function saved(Cluster $cluster): ?array
    {
        $row = DB::table('setting_profiles')->where('cluster_id', $cluster->id)->first(['saved_by', 'saved_us']);

        return $row === null ? null : ['by' => (string) $row->saved_by, 'us' => (int) $row->saved_us];
    }

    public function of(Cluster $cluster): SettingsProfile
    {
        $profile = self::read($this->text($cluster));

        // What was kept was read before; should a later version read it otherwise, nothing is desired.
        return $profile instanceof SettingsProfile ? $profile : new SettingsProfile('', []);
    }

    public function save(Cluster $cluster, string $text, User $by): void
    {
        DB::table('setting_profiles')->updateOrInsert(['cluster_id' => $cluster->id], [
            'text' => $text, 'saved_us' => Clock::microseconds(), 'saved_by' => $by->name,
        ]);
    }

    public function forget(Cluster $cluster): void
    {
        DB::table('setting_profiles')->where('cluster_id', $cluster->id)->delete();
    }

    /**
     * @return SettingsProfile|non-empty-list<string> what is wrong, each with its line
     */
    public static function read(string $text): SettingsProfile|array
    {
        try {
            $data = Yaml::parse($text, Yaml::PARSE_EXCEPTION_ON_INVALID_TYPE);
        } catch (ParseException $error) {
            return ['Line '.max(1, $error->getParsedLine()).': '.$error->getMessage()];
        }
        if (! is_array($data)) {
            return ['Line 1: a profile is a map with a name and settings.'];
        }
        $profile = SettingsProfile::read($data);

        return $profile instanceof SettingsProfile || $profile === [] ? ($profile === [] ? ['Line 1: nothing can be read.'] : $profile)
            : array_map(static fn (SettingProblem $one): string => 'Line '.self::line($text, $one).': '.$one->said(), $profile);
    }

    private static function line(string $text, SettingProblem $problem): int
    {
        $found = 0;
        foreach (explode("\n", $text) as $i => $line) {
            $is = static fn (string $name): bool => preg_match('~^\s*[\'"]?'.preg_quote($name, '~').'[\'"]?\s*:~', $line) === 1;
            if ($found === 0 && $is($problem->setting)) {
                $found = $i + 1;
            } elseif ($found > 0 && $problem->field !== '' && $is($problem->field)) {
                return $i + 1;
            }
        }

        return max(1, $found);
    }
}
