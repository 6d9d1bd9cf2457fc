<?php

declare(strict_types=1);

namespace Tests\Core\Mutants;

use Fulcrion\Tools\Console\MutateCommand;
use Fulcrion\Tools\Mutants\Mutant;
use Fulcrion\Tools\Mutants\MutantRun;
use Fulcrion\Tools\Mutants\Mutator;
use PhpParser\ParserFactory;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class MutatorTest extends TestCase
{
    /** @param  list<string>  $mistakes */
    #[TestWith(['$a + $b', ['$a - $b']])]
    #[TestWith(['$a <= $b', ['$a < $b']])]
    #[TestWith(['$a === $b && $c', ['$a !== $b && $c', '$a === $b || $c']])]
    #[TestWith(['! $a', ['$a']])]
    #[TestWith(['-$a', ['$a']])]
    #[TestWith(['7', ['8']])]
    #[TestWith(['0.5', ['0.75']])]
    #[TestWith(['0.0', ['1.0']])]
    #[TestWith(['true', ['false']])]
    #[TestWith(['min($a, $b)', ['max($a, $b)']])]
    #[TestWith(['$a ? $b : $c', ['! ($a) ? $b : $c']])]
    #[TestWith(['$a += $b', ['$a = $b']])]
    #[TestWith(['$a . $b', []])]
    #[TestWith(['$a ?? $b', []])]
    #[TestWith(['"a < 7"', []])]
    #[TestWith(['f($a /* < */ < $b)', ['f($a /* <= */ < $b)']])]
    public function test_the_mistakes_of_an_expression(string $expression, array $mistakes): void
    {
        $source = "<?php\nreturn {$expression};\n";
        $made = array_map(
            static fn (Mutant $mutant): string => substr($mutant->in($source), strlen("<?php\nreturn "), -2),
            (new Mutator())->of('a.php', $source),
        );
        self::assertSame($mistakes, $made);
    }

    public function test_mistakes_of_statements_name_their_line(): void
    {
        $source = "<?php\nforeach (\$a as \$b) {\n    if (\$b) {\n        continue;\n    }\n}\n";
        self::assertSame(
            ['a.php:3: $b became ! ($b)', 'a.php:4: continue; became break;'],
            array_map(static fn (Mutant $mutant): string => $mutant->words(), (new Mutator())->of('a.php', $source)),
        );
    }

    /** Every mistake still is PHP, or it would be noticed by no test's merit. */
    public function test_every_mistake_in_the_core_can_be_read(): void
    {
        $parser = (new ParserFactory())->createForHostVersion();
        foreach (['core/src/Text/Quantity.php', 'core/src/Storage/LayoutModel.php', 'core/src/Statistics/MannWhitney.php'] as $path) {
            $source = (string) file_get_contents(dirname(__DIR__, 3)."/{$path}");
            $mutants = (new Mutator())->of($path, $source);
            self::assertGreaterThan(20, count($mutants));
            foreach ($mutants as $mutant) {
                $changed = $mutant->in($source);
                self::assertNotSame($source, $changed);
                self::assertNotNull($parser->parse($changed));
            }
        }
    }

    public function test_the_same_seed_chooses_the_same(): void
    {
        $mutants = (new Mutator())->of('a.php', "<?php\nreturn [".implode(', ', range(1, 50)).'];');
        self::assertEquals(MutateCommand::chosen($mutants, 10, 3), MutateCommand::chosen($mutants, 10, 3));
        self::assertNotEquals(MutateCommand::chosen($mutants, 10, 3), MutateCommand::chosen($mutants, 10, 4));
        self::assertCount(50, MutateCommand::chosen($mutants, 500, 3));
    }

    public function test_a_mistake_that_matters_is_noticed_and_one_that_does_not_is_not(): void
    {
        $root = dirname(__DIR__, 3);
        $path = 'core/src/Text/Quantity.php';
        $source = (string) file_get_contents("{$root}/{$path}");
        $run = new MutantRun($root, ['tests/Core/Text/QuantityTest.php']);
        self::assertLessThan(30, $run->seconds());
        $at = (int) strpos($source, '999_500) {');
        self::assertTrue($run->isKilled(new Mutant($path, 1, $at, '999_500', '999_900')));
        $name = (int) strpos($source, 'A plain number');
        self::assertFalse($run->isKilled(new Mutant($path, 1, $name, 'A plain number', 'Any number')));
        self::assertTrue($run->isKilled(new Mutant($path, 1, $at, '999_500', '999_500 ++')), 'what is no PHP breaks off');
        self::assertSame($source, file_get_contents("{$root}/{$path}"), 'the file is as it was');
    }

    public function test_what_a_file_declares_and_the_types_of_a_search_are_left_alone(): void
    {
        $found = (new Mutator())->of('x.php', "<?php\n\ndeclare(strict_types=1);\n\nreturn in_array(\$a, [1], true) && \$b === true;\n");
        self::assertSame(
            ['1 to 2', '&& to ||', '=== to !==', 'true to false'],
            array_map(static fn (Mutant $one): string => trim($one->from).' to '.trim($one->to), array_values(array_filter(
                $found,
                static fn (Mutant $one): bool => strlen($one->from) < 6,
            ))),
        );
        self::assertNotContains(3, array_map(static fn (Mutant $one): int => $one->line, $found));
    }
}
