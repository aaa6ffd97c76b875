//! The compiler as judge: the demo builds before and after each move, and `undo` restores every byte.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    dead_code,
    reason = "a test may fail loudly"
)]

mod common;

use common::Project;
use common::solution::build;

/// Moves, builds, takes back, and compares every byte and time.
fn holds(arguments: &[&str]) -> Project {
    let project = Project::demo();
    let before = project.snapshot();
    let mut call = vec!["move", "--apply"];
    call.extend(arguments);
    let answer = project.run(&call);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_ne!(project.snapshot(), before, "something moved");
    if let Err(error) = build(project.root()) {
        panic!("after {arguments:?}: {error}\n{}", answer.all());
    }
    let moved = project.snapshot();
    let answer = project.run(&["undo"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let after = project.snapshot();
    assert_eq!(before.keys().collect::<Vec<_>>(), after.keys().collect::<Vec<_>>());
    for (path, file) in &before {
        assert!(after[path] == *file, "{path} is as before");
    }
    // For further looks at what the move made.
    let again = Project::new(&[]);
    for (path, (bytes, _)) in moved.iter().filter(|(path, _)| !path.ends_with('/')) {
        again.write(path, &String::from_utf8_lossy(bytes));
    }
    again
}

macro_rules! moves {
    ($($(#[$meta:meta])* $name:ident: [$($argument:literal),*] $(=> |$project:ident| $look:block)?;)*) => {$(
        $(#[$meta])*
        #[test]
        #[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
        fn $name() {
            let _project = holds(&[$($argument),*]);
            $(let $project = _project; $look)?
        }
    )*};
}

#[test]
#[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
fn the_demo_builds_as_it_is() {
    build(Project::demo().root()).unwrap();
}

moves! {
    file_to_a_new_sub_folder: ["src/Mossgrove/Visits/Tour.cs", "src/Mossgrove/Visits/Tours/"] => |project| {
        assert!(project.read("src/Mossgrove/Members/Member.cs").contains("using Mossgrove.Visits.Tours;"));
    };
    file_to_another_folder: ["src/Mossgrove/Visits/OpeningHours.cs", "src/Mossgrove/Models/"] => |project| {
        let schedule = project.read("src/Mossgrove/Glasshouse/VentSchedule.cs");
        assert!(schedule.contains("using Mossgrove.Models;") && !schedule.contains("using Mossgrove.Visits;"));
        assert!(project.read("deploy/services.json").contains("Mossgrove.Models.OpeningHours"));
        assert!(project.read("deploy/services.json").contains("../src/Mossgrove/Models/OpeningHours.cs"));
    };
    full_name_with_its_assembly: ["src/Mossgrove/Visits/OpeningHours.cs", "src/Mossgrove/Helpers/DateExtensions.cs", "src/Catalogue/Hours/"] => |project| {
        assert!(project.read("deploy/services.json").contains("\"Mossgrove.Catalogue.Hours.OpeningHours, Mossgrove.Catalogue\""));
    };
    single_type_out_of_a_shared_file: ["name:Mossgrove.Models.TicketFee", "src/Mossgrove/Visits/"] => |project| {
        assert!(!project.read("src/Mossgrove/Models/Ticket.cs").contains("class TicketFee"));
        assert!(project.read("src/Mossgrove/Visits/TicketFee.cs").contains("What a ticket costs"));
    };
    enumeration_out_of_a_shared_file: ["name:Mossgrove.Models.FeeKind", "src/Mossgrove/Shop/FeeKind.cs"] => |project| {
        assert!(project.read("src/Mossgrove/Shop/FeeKind.cs").contains("// Who pays which fee."));
    };
    nested_folder: ["src/Mossgrove/Glasshouse/Vents", "src/Mossgrove/Climate/"] => |project| {
        assert!(project.read("src/Mossgrove/Climate/Vents/VentGroup.cs").contains("using Mossgrove.Glasshouse;"));
    };
    file_used_by_markup: ["apps/Desk/Controls/ClimateDial.cs", "apps/Desk/Widgets/"] => |project| {
        let view = project.read("apps/Desk/ClimateView.xaml");
        assert!(view.contains("xmlns:widgets=\"clr-namespace:Mossgrove.Desk.Widgets\""), "{view}");
        assert!(view.contains("<widgets:ClimateDial") && view.contains("<controls:Legend"), "{view}");
    };
    page_with_its_code: ["apps/Desk/ClimateView.xaml", "apps/Desk/ClimateView.xaml.cs", "apps/Desk/Views/"] => |project| {
        assert!(project.read("apps/Desk/Views/ClimateView.xaml").contains("x:Class=\"Mossgrove.Desk.Views.ClimateView\""));
    };
    extension_methods: ["src/Mossgrove/Helpers/DateExtensions.cs", "src/Catalogue/Dates/"] => |project| {
        assert!(project.read("src/Mossgrove/Models/Ticket.cs").contains("using Mossgrove.Catalogue.Dates;"));
        assert!(project.read("src/Mossgrove/Propagation/Sowing.cs").contains("using Mossgrove.Catalogue.Dates;"));
    };
    same_simple_name_elsewhere: ["src/Catalogue/Labels/Label.cs", "src/Catalogue/Tags/"] => |project| {
        assert!(!project.read("src/Mossgrove/Shop/Sale.cs").contains("Catalogue"));
    };
    shop_label_beside_the_plant_label: ["src/Mossgrove/Models/Label.cs", "src/Mossgrove/Shop/"] => |project| {
        let label = project.read("src/Mossgrove/Shop/Label.cs");
        assert!(label.contains("Catalogue.Labels.Label"), "{label}");
    };
    several_at_once: ["src/Mossgrove/Visits/Tour.cs", "src/Mossgrove/Visits/TourPlan.cs", "src/Mossgrove/Guides", "src/Mossgrove/Tours/"];
    folder_across_projects: ["src/Mossgrove/Calendar", "src/Mossgrove/Shop", "src/Mossgrove/Members", "src/Mossgrove/Garden/"];
    project_with_its_folder: ["src/Storage/Files", "src/Adapters/"] => |project| {
        assert!(project.read("Mossgrove.sln").contains("src\\Adapters\\Files\\Mossgrove.Storage.Files.csproj"));
        let sql = project.read("src/Storage/Sql/Mossgrove.Storage.Sql.csproj");
        assert!(sql.contains("Include=\"..\\..\\Adapters\\Files\\Paths.cs\""), "{sql}");
    };
    only_another_file_name: ["src/Catalogue/Rank.cs", "src/Catalogue/Ranks.cs"];
    listed_file_to_a_sub_folder: ["src/Storage/Sql/SqlHerbarium.cs", "src/Storage/Sql/Herbaria/"] => |project| {
        let sql = project.read("src/Storage/Sql/Mossgrove.Storage.Sql.csproj");
        assert!(sql.contains("Include=\"Herbaria\\SqlHerbarium.cs\"\u{20}/>\r\n"), "{sql}");
    };
    listed_file_to_a_project_that_takes_all: ["src/Storage/Sql/Rows/TaxonRow.cs", "src/Catalogue/Rows/"] => |project| {
        assert!(!project.read("src/Storage/Sql/Mossgrove.Storage.Sql.csproj").contains("TaxonRow"));
        assert!(project.read("src/Storage/Sql/SqlHerbarium.cs").contains("using Mossgrove.Catalogue.Rows;\r\n"));
    };
    file_to_a_project_that_lists: ["src/Storage/Files/FileHerbarium.cs", "src/Storage/Sql/"] => |project| {
        let sql = project.read("src/Storage/Sql/Mossgrove.Storage.Sql.csproj");
        assert!(sql.contains("<Compile Include=\"FileHerbarium.cs\" />"), "{sql}");
        assert!(sql.contains("Mossgrove\\Mossgrove.csproj"), "{sql}");
    };
    internal_type_widened: ["src/Mossgrove/Helpers/Guard.cs", "src/Catalogue/Helpers/", "--widen"] => |project| {
        assert!(project.read("src/Catalogue/Helpers/Guard.cs").contains("public static class Guard"));
    };
    half_of_a_partial_type: ["name:Mossgrove.Models.Batch", "src/Mossgrove/Propagation/"] => |project| {
        assert!(project.exists("src/Mossgrove/Propagation/Batch.Counting.cs"));
    };
    folder_with_everything: ["src/Mossgrove/Glasshouse", "src/Mossgrove/Houses/Glass"] => |project| {
        assert!(project.read("apps/Desk/ClimateView.xaml").contains("clr-namespace:Mossgrove.Houses.Glass;assembly=Mossgrove"));
        assert!(project.read("ferngate.toml").contains("src/Mossgrove/Houses/Glass"));
    };
}

#[test]
#[cfg_attr(not(has_mcs), ignore = "the C# compiler mcs is not installed")]
fn what_becomes_public_takes_along_what_it_shows() {
    let settings = |name: &str, uses: &str| {
        format!(
            "<Project Sdk=\"Microsoft.NET.Sdk\">\n  <PropertyGroup>\n    <AssemblyName>{name}</AssemblyName>\n  </PropertyGroup>\n{uses}</Project>\n"
        )
    };
    let uses = "  <ItemGroup>\n    <ProjectReference Include=\"..\\Core\\Core.csproj\" />\n  </ItemGroup>\n";
    let project = Project::new(&[
        ("Core/Core.csproj", &settings("Core", "")),
        ("App/App.csproj", &settings("App", uses)),
        ("App/Start.cs", "namespace App { public class Start { public Core.Bed Bed; } }\n"),
        (
            "Core/Bed.cs",
            "namespace Core {\n  public class Bed {\n    internal Bed(int width) { Width = width; }\n    protected internal int Width { get; set; }\n    \
             internal Label Label(Ink ink) { return new Label(); }\n    internal static int Count;\n    internal int Left;\n  }\n}\n",
        ),
        (
            "Core/Label.cs",
            "namespace Core {\n  class Label : Paper {\n    public Ink[] Inks(System.Collections.Generic.List<Stamp> stamps) { return null; }\n    Secret secret;\n  }\n}\n",
        ),
        (
            "Core/Ink.cs",
            "namespace Core {\n  class Ink { internal int Depth; }\n  class Stamp { }\n  class Paper { }\n  class Secret { }\n}\n",
        ),
        (
            "Core/Maker.cs",
            "namespace Core {\n  public class Maker {\n    public void Make() {\n      var bed = new Bed(1) { Width = Bed.Count };\n      \
             var label = bed.Label(null);\n      foreach (var ink in label.Inks(null)) ink.Depth = 2;\n    }\n  }\n}\n",
        ),
    ]);
    build(project.root()).unwrap();
    let before = project.snapshot();
    let answer = project.run(&["move", "Core/Maker.cs", "App/"]);
    assert_eq!(answer.status, 1, "{}", answer.all());
    assert!(
        answer.out.contains("9 internal names would be used across a project border"),
        "{}",
        answer.all()
    );
    let answer = project.run(&["move", "--apply", "--widen", "Core/Maker.cs", "App/"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    if let Err(error) = build(project.root()) {
        panic!("{error}\n{}", answer.all());
    }
    let bed = project.read("Core/Bed.cs");
    assert!(bed.contains("public Bed(int") && bed.contains("public int Width"), "{bed}");
    assert!(bed.contains("public static int Count") && bed.contains("internal int Left"), "{bed}");
    let ink = project.read("Core/Ink.cs");
    assert!(ink.contains("public int Depth") && ink.contains("  class Secret"), "{ink}");
    assert_eq!(project.run(&["undo"]).status, 0);
    assert_eq!(project.snapshot(), before);
}
