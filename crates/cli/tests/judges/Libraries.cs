using System;
using System.Collections.Generic;
using System.IO;
using System.Linq;
using Microsoft.CodeAnalysis;

/// What the judges of C# compile against.
static class Libraries
{
    /// The libraries in folders; files that only end like some are left out.
    public static List<PortableExecutableReference> In(IEnumerable<string> folders)
    {
        return folders.SelectMany(folder => Directory.GetFiles(folder, "*.dll"))
            .Where(IsLibrary).Select(path => MetadataReference.CreateFromFile(path)).ToList();
    }

    static bool IsLibrary(string path)
    {
        try {
            System.Reflection.AssemblyName.GetAssemblyName(path);
            return true;
        } catch (BadImageFormatException) {
            return false;
        }
    }
}
